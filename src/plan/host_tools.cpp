#include "plan/host_tools.h"

#include <set>
#include <unordered_map>

#include "base/elf.h"
#include "base/files.h"
#include "base/text.h"

namespace coctilis::plan {

namespace {

using model::Step;
using model::StepKind;

bool builds(const Step& step) {
  return step.kind == StepKind::compile || step.kind == StepKind::archive || step.kind == StepKind::link;
}

// The programs of the plan, by file.
std::unordered_map<std::string, const model::PlannedTarget*> programs_of(const model::Plan& plan) {
  std::unordered_map<std::string, const model::PlannedTarget*> out;
  for (const auto& target : plan.targets) {
    if (target.kind == model::TargetKind::program && !target.output.empty()) out.emplace(target.output, &target);
  }
  return out;
}

class HostSteps {
 public:
  HostSteps(model::Plan& plan, const model::Plan& host_plan, const model::Toolchain& host)
      : plan_(plan), host_plan_(host_plan), host_(host) {
    for (std::size_t i = 0; i < host_plan.steps.size(); ++i) {
      for (const auto& output : host_plan.steps[i].outputs) maker_.emplace(output, i);
    }
  }

  void take(const std::string& file) {
    std::vector<std::string> queue = {file};
    while (!queue.empty()) {
      const std::string at = queue.back();
      queue.pop_back();
      const auto it = maker_.find(at);
      if (it == maker_.end() || !builds(host_plan_.steps[it->second]) || !taken_.insert(it->second).second) continue;
      const auto& step = host_plan_.steps[it->second];
      for (const auto* list : {&step.outputs, &step.byproducts, &step.output_folders}) {
        for (const auto& output : *list) moved_[output] = moved(output);
      }
      if (!step.dependency_file.empty()) moved_[step.dependency_file] = moved(step.dependency_file);
      for (const auto* list : {&step.inputs, &step.input_folders, &step.after})
        queue.insert(queue.end(), list->begin(), list->end());
    }
  }

  [[nodiscard]] std::string place_of(const std::string& file) const {
    const auto it = moved_.find(file);
    return it == moved_.end() ? file : it->second;
  }

  void add() {
    for (const auto index : taken_) {
      Step step = host_plan_.steps[index];
      step.subject += " (for this machine)";
      for (auto* list :
           {&step.inputs, &step.input_folders, &step.after, &step.outputs, &step.byproducts, &step.output_folders}) {
        for (auto& path : *list) path = library_here(place_of(path), step);
      }
      step.dependency_file = place_of(step.dependency_file);
      for (auto& action : step.actions) {
        for (auto& word : action.argv) word = word_here(word, step);
      }
      plan_.steps.push_back(std::move(step));
    }
  }

 private:
  [[nodiscard]] std::string moved(const std::string& path) const {
    return plan_.work + "/.host/" + files::below(path, plan_.work);
  }

  std::string word_here(const std::string& word, const Step& step) const {
    if (const auto it = moved_.find(word); it != moved_.end()) return it->second;
    const std::string folder_option = "-Wl,-rpath-link,";
    if (word.starts_with(folder_option) && files::is_below(word.substr(folder_option.size()), plan_.work))
      return folder_option + moved(word.substr(folder_option.size()));
    return library_here(word, step);
  }

  // A library of the other machine: the one of that name that this machine has.
  std::string library_here(const std::string& path, const Step& step) const {
    if (!path.starts_with('/') || files::is_below(path, plan_.work) || !files::is_file(path)) return path;
    if (path.find(".so") == std::string::npos && !path.ends_with(".a")) return path;
    const auto facts = read_elf(path);
    if (!facts || facts->machine == 0 || fits_machine(*facts, host_.machine)) return path;
    const std::string name = std::filesystem::path(path).filename().string();
    for (const auto& folder : host_.any().link_folders) {
      if (files::is_file(folder + "/" + name)) return folder + "/" + name;
    }
    throw Fault({Exit::missing,
                 step.place,
                 "the program '" + step.target + "' runs while building and needs " + name + " for this machine (" +
                     host_.machine + ")",
                 "only " + path + " is there",
                 "install the development package of the library for this machine as well",
                 {}});
  }

  model::Plan& plan_;
  const model::Plan& host_plan_;
  const model::Toolchain& host_;
  std::unordered_map<std::string, std::size_t> maker_;
  std::set<std::size_t> taken_;
  std::unordered_map<std::string, std::string> moved_;
};

}  // namespace

bool runs_own_programs(const model::Plan& plan) {
  const auto programs = programs_of(plan);
  for (const auto& step : plan.steps) {
    for (const auto& action : step.actions) {
      if (!action.argv.empty() && programs.contains(action.argv.front())) return true;
    }
  }
  return false;
}

void use_host_tools(model::Plan& plan, const model::Plan& host_plan, const model::Toolchain& host) {
  const auto programs = programs_of(plan);
  HostSteps steps(plan, host_plan, host);
  std::set<std::string> names;
  for (const auto& step : plan.steps) {
    for (const auto& action : step.actions) {
      const auto it = action.argv.empty() ? programs.end() : programs.find(action.argv.front());
      if (it == programs.end()) continue;
      steps.take(it->first);
      names.insert(it->second->name);
    }
  }
  for (auto& step : plan.steps) {
    std::set<std::string> still_needed;
    std::set<std::string> replaced;
    for (auto& action : step.actions) {
      if (!action.argv.empty() && programs.contains(action.argv.front())) {
        replaced.insert(action.argv.front());
        action.argv.front() = steps.place_of(action.argv.front());
      }
      for (std::size_t i = 1; i < action.argv.size(); ++i) still_needed.insert(action.argv[i]);
    }
    for (auto& input : step.inputs) {
      if (replaced.contains(input) && !still_needed.contains(input)) input = steps.place_of(input);
    }
    for (const auto& program : replaced) {
      if (still_needed.contains(program)) step.inputs.push_back(steps.place_of(program));
    }
  }
  steps.add();
  plan.notes.push_back(text::join({names.begin(), names.end()}, ", ") + (names.size() == 1 ? " runs" : " run") +
                       " while building: made for this machine too, with " + host.name);
}

}  // namespace coctilis::plan
