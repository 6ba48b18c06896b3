// The steps that what a user names needs, and the compile database: a plan seen from outside.
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "base/files.h"
#include "base/text.h"
#include "model/makers.h"
#include "plan/planner.h"

namespace coctilis::plan {

std::string compile_database(const model::Plan& plan) {
  auto out = nlohmann::ordered_json::array();
  for (const auto& step : plan.steps) {
    for (const auto& one : step.compilations)
      out.push_back({{"directory", one.folder}, {"file", one.source}, {"output", one.output}, {"arguments", one.argv}});
    if (step.kind != model::StepKind::compile || !step.compilations.empty()) continue;
    const auto compiler = std::find_if(step.actions.begin(), step.actions.end(),
                                       [](const auto& a) { return a.how == model::Action::How::process; });
    if (compiler == step.actions.end()) continue;
    out.push_back({{"directory", compiler->folder},
                   {"file", step.source},
                   {"output", step.outputs.front()},
                   {"arguments", compiler->argv}});
  }
  return out.dump(1, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

Result<std::vector<bool>> select_steps(const model::Plan& plan, const std::vector<std::string>& names) {
  std::vector<bool> chosen(plan.steps.size(), false);
  if (names.empty()) {
    for (std::size_t i = 0; i < plan.steps.size(); ++i) chosen[i] = plan.steps[i].in_default;
    return chosen;
  }
  model::Makers makers;
  for (std::size_t i = 0; i < plan.steps.size(); ++i) {
    for (const auto& folder : plan.steps[i].output_folders) makers.claim_folder(folder, i);
    for (const auto* list : {&plan.steps[i].outputs, &plan.steps[i].byproducts}) {
      for (const auto& output : *list) makers.claim(output, i);
    }
  }
  std::vector<std::size_t> queue;
  for (const auto& name : names) {
    if (const auto* target = plan.target(name)) {
      queue.insert(queue.end(), target->steps.begin(), target->steps.end());
      continue;
    }
    const auto maker = [&] {
      for (const auto& base : {plan.work, plan.kiln, plan.tree}) {
        if (const auto found = makers.of(files::absolute(name, base)); found != model::Makers::none) return found;
      }
      return model::Makers::none;
    }();
    if (maker == model::Makers::none) {
      std::string nearest;
      std::size_t best = 4;
      for (const auto& target : plan.targets) {
        const auto distance = text::edit_distance(target.name, name);
        if (distance < best) {
          best = distance;
          nearest = target.name;
        }
      }
      return Problem{Exit::usage,
                     {},
                     "there is no target '" + name + "'",
                     {},
                     nearest.empty() ? "'coctilis plan' lists the targets" : "did you mean '" + nearest + "'?",
                     {}};
    }
    queue.push_back(maker);
  }
  while (!queue.empty()) {
    const std::size_t at = queue.back();
    queue.pop_back();
    if (chosen[at]) continue;
    chosen[at] = true;
    const auto& step = plan.steps[at];
    for (const auto* list : {&step.inputs, &step.input_folders, &step.after}) {
      for (const auto& input : *list) {
        if (const auto made = makers.of(input); made != model::Makers::none && !chosen[made]) queue.push_back(made);
      }
    }
  }
  return chosen;
}

}  // namespace coctilis::plan
