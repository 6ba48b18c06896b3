#include "pipeline/results.h"

#include <sys/stat.h>

#include <algorithm>

#include "base/disk.h"
#include "base/files.h"
#include "base/loader.h"
#include "base/text.h"

namespace coctilis::pipeline {

namespace {

using model::TargetKind;

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }
std::string name_of(const std::string& path) { return std::filesystem::path(path).filename().string(); }

bool is_shared(const model::PlannedTarget& target) {
  return target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library;
}

// Folders of libraries that were built with a program, by the names under which it may ask for them.
std::map<std::string, std::string> own_libraries(const model::Plan& plan) {
  std::map<std::string, std::string> out;
  for (const auto& target : plan.targets) {
    if (!is_shared(target) || target.output.empty()) continue;
    out.emplace(name_of(target.output), target.output);
    if (!target.shared_name.empty()) out.emplace(target.shared_name, target.output);
    for (const auto& name : target.names) out.emplace(name_of(name), name);
  }
  return out;
}

// The folders that have to be named to the loader so that the program finds what was built with it, and nothing else
// under the same names; none when it does so by itself.
std::vector<std::string> folders_to_name(const std::string& program, const std::map<std::string, std::string>& own) {
  std::vector<std::string> out;
  const auto name = [&](const std::string& library) {
    const auto it = own.find(library);
    if (it == own.end()) return;
    const std::string folder = folder_of(it->second);
    if (std::find(out.begin(), out.end(), folder) == out.end()) out.push_back(folder);
  };
  // Libraries that are found once the first folders are named may need others.
  for (std::size_t before = 0;; before = out.size()) {
    const LoadResult result = resolve_libraries(program, {}, out);
    for (const auto& [library, user] : result.missing) name(library);
    for (const auto& [library, file] : result.found) {
      std::error_code error;
      const auto it = own.find(library);
      if (it != own.end() && !std::filesystem::equivalent(file, it->second, error)) name(library);
    }
    if (out.size() == before) return out;
  }
}

std::string starter_text(const std::string& program, const std::vector<std::string>& folders) {
  return "#!/bin/sh\n# Starts the program with the shared libraries that were built with it.\n"
         "LD_LIBRARY_PATH=" +
         text::shell_quote(text::join(folders, ":")) + "${LD_LIBRARY_PATH:+:$LD_LIBRARY_PATH}\n" +
         "export LD_LIBRARY_PATH\nexec " + text::shell_quote(program) + " \"$@\"\n";
}

}  // namespace

void show_results(model::Run& run) {
  std::error_code error;
  std::map<std::string, std::string> starters;  // by entry
  if (!run.toolchain.foreign) {
    const auto own = own_libraries(run.plan);
    for (auto& target : run.plan.targets) {
      target.starter.clear();
      if (target.kind != TargetKind::program || own.empty() || !files::is_file(target.output)) continue;
      const auto folders = folders_to_name(target.output, own);
      if (folders.empty()) continue;
      for (const auto& [name, file] : run.plan.shown) {
        if (run.kiln + "/" + file != target.output) continue;
        target.starter = run.kiln + "/" + name;
        starters[name] = starter_text(target.output, folders);
      }
    }
  }
  for (const char* group : {"/bin", "/lib"}) {
    std::vector<std::string> gone;
    for (auto it = std::filesystem::recursive_directory_iterator(run.kiln + group, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      const std::string path = it->path().string();
      const bool is_folder = it->is_directory(error) && !it->is_symlink(error);
      if (!is_folder && !run.plan.shown.contains(files::below(path, run.kiln))) gone.push_back(path);
    }
    for (const auto& path : gone) std::filesystem::remove(path, error);
  }
  for (const auto& [name, file] : run.plan.shown) {
    const std::string link = run.kiln + "/" + name;
    if (!files::exists(run.kiln + "/" + file)) {
      std::filesystem::remove(link, error);
      continue;
    }
    if (const auto starter = starters.find(name); starter != starters.end()) {
      if (files::is_link(link)) std::filesystem::remove(link, error);
      files::write_if_different(link, starter->second);
      files::set_mode(link, 0755);
      continue;
    }
    const std::string to = files::relative(run.kiln + "/" + file, folder_of(link));
    if (std::filesystem::read_symlink(link, error) == to) continue;
    files::make_folder(folder_of(link));
    std::filesystem::remove(link, error);
    error.clear();
    std::filesystem::create_symlink(to, link, error);
    if (error)
      throw Fault({Exit::kiln,
                   {link, 0, 0},
                   "the results cannot be shown in the kiln",
                   error.message(),
                   remedy_for_writing(error.value()),
                   {}});
  }
}

std::optional<Problem> nothing_was_built(const model::Run& run) {
  if (run.outcome.ignored == 0) return std::nullopt;
  static constexpr const char* endings[] = {".o", ".lo", ".a", ".so", ".la"};
  std::size_t promised = 0;
  const model::StepResult* first = nullptr;
  const model::Step* first_step = nullptr;
  for (std::size_t i = 0; i < run.plan.steps.size() && i < run.outcome.steps.size(); ++i) {
    const auto& step = run.plan.steps[i];
    const auto& result = run.outcome.steps[i];
    if (!result.ignored.empty() && first == nullptr) {
      first = &result;
      first_step = &step;
    }
    const bool makes = step.kind == model::StepKind::compile || step.kind == model::StepKind::archive ||
                       step.kind == model::StepKind::link || !step.compilations.empty();
    for (const auto& output : step.outputs) {
      const bool named = std::any_of(std::begin(endings), std::end(endings),
                                     [&](const char* ending) { return output.ends_with(ending); });
      if (!makes && !named) continue;
      if (files::is_file(output)) return std::nullopt;
      ++promised;
    }
  }
  if (promised == 0 || first == nullptr) return std::nullopt;
  for (const auto& target : run.plan.targets) {
    if (files::is_file(target.output)) return std::nullopt;
  }
  const auto& failure = first->ignored.front();
  return Problem{Exit::step,
                 first_step->place,
                 "nothing was built: " + text::count(run.outcome.ignored, "command") +
                     " failed, and the description says that this does not matter",
                 "the first is '" + text::clip(text::printable_line(failure.command), 200) + "': " + failure.end,
                 "look at what stands in front of these commands: an empty variable, say, whose value --set gives",
                 {}};
}

}  // namespace coctilis::pipeline
