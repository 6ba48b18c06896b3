// The steps that what a user names needs, and the compile database: a plan seen from outside.
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "base/files.h"
#include "base/text.h"
#include "model/makers.h"
#include "plan/planner.h"

namespace coctilis::plan {

namespace {

// A plan may compile a copy of the tree. Who edits wants to be led to the tree's own files.
class OwnFiles {
 public:
  explicit OwnFiles(const model::Plan& plan) : plan_(plan) {}

  // The file or folder of the tree that a path in the copy stands for; the path itself where there is none.
  [[nodiscard]] std::string of(const std::string& path) const {
    if (plan_.original.empty()) return path;
    for (const auto* copy : {&plan_.tree, &plan_.work}) {
      if (*copy == plan_.original || !files::is_below(path, *copy)) continue;
      std::string own = path == *copy ? plan_.original : plan_.original + "/" + files::below(path, *copy);
      if (files::exists(own)) return own;
    }
    return path;
  }

  // A command with the tree's own source in place of its copy, and with the tree's own folders searched before those of
  // the copy, which have what is made besides.
  [[nodiscard]] std::vector<std::string> in(const std::vector<std::string>& argv, const std::string& folder,
                                            const std::string& source) const {
    if (plan_.original.empty()) return argv;
    std::vector<std::string> out;
    for (std::size_t i = 0; i < argv.size(); ++i) {
      const auto& word = argv[i];
      if (i > 0 && !word.starts_with("-") && files::absolute(word, folder) == source && argv[i - 1] != "-o") {
        out.push_back(of(source));
        continue;
      }
      const bool apart = word == "-I" && i + 1 < argv.size();
      if (apart || (word.starts_with("-I") && word.size() > 2)) {
        const std::string searched = files::absolute(apart ? argv[i + 1] : word.substr(2), folder);
        if (std::string own = of(searched); own != searched) out.push_back("-I" + own);
      }
      out.push_back(word);
    }
    return out;
  }

 private:
  const model::Plan& plan_;
};

}  // namespace

std::string compile_database(const model::Plan& plan) {
  const OwnFiles own(plan);
  auto out = nlohmann::ordered_json::array();
  const auto add = [&](const std::string& folder, const std::string& source, const std::string& output,
                       const std::vector<std::string>& argv) {
    const std::string absolute = files::absolute(source, folder);
    out.push_back({{"directory", folder},
                   {"file", own.of(absolute)},
                   {"output", output},
                   {"arguments", own.in(argv, folder, absolute)}});
  };
  for (const auto& step : plan.steps) {
    for (const auto& one : step.compilations) add(one.folder, one.source, one.output, one.argv);
    if (step.kind != model::StepKind::compile || !step.compilations.empty()) continue;
    const auto compiler = std::find_if(step.actions.begin(), step.actions.end(),
                                       [](const auto& a) { return a.how == model::Action::How::process; });
    if (compiler == step.actions.end()) continue;
    add(compiler->folder, step.source, step.outputs.front(), compiler->argv);
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
