#include "record/names.h"

#include <algorithm>
#include <map>

#include "base/files.h"
#include "base/text.h"
#include "record/record.h"

namespace coctilis::record {

namespace {

constexpr const char* file_name = "names";
constexpr std::size_t most = 20000;

}  // namespace

void keep_names(const model::Run& run) {
  const std::string path = run.kiln + "/" + file_name;
  std::map<std::string, std::vector<std::string>> names;
  for (const auto& target : run.plan.targets) names["target"].push_back(target.name);
  for (const auto& option : run.project.options) names["option"].push_back(option.name);
  for (const auto& check : run.checks) names["check"].push_back(check.name);
  for (const auto& [name, variant] : run.settings.variants) names["variant"].push_back(name);
  for (const auto& finding : run.findings) names["library"].push_back(finding.requirement.name);
  for (const auto& step : run.plan.steps) {
    if (!step.source.empty()) names["source"].push_back(files::below(step.source, run.tree));
  }
  std::map<std::string, std::vector<std::string>> before;
  // What this run has not got as far as is as it was before.
  for (const auto& line : text::split(files::read(path).value_or(""), '\n')) {
    const auto space = line.find(' ');
    if (space == std::string::npos) continue;
    before[line.substr(0, space)].push_back(line.substr(space + 1));
  }
  const bool has_plan = run.reached >= model::Stage::plan && !run.plan.steps.empty();
  for (auto& [kind, list] : before) {
    const bool reached = kind == "variant" || (kind == "check" ? run.checked : has_plan);
    if (auto& now = names[kind]; now.empty() && !reached) now = std::move(list);
  }
  std::string out;
  std::size_t count = 0;
  for (const auto& [kind, list] : names) {
    for (const auto& name : list) {
      if (name.empty() || name.find('\n') != std::string::npos || ++count > most) continue;
      out.append(kind).append(" ").append(name).append("\n");
    }
  }
  files::write_if_different(path, out);
}

std::vector<std::string> names_in(const std::string& kiln_root, const std::string& kind) {
  std::vector<std::string> out;
  std::error_code error;
  std::string newest;
  std::filesystem::file_time_type when{};
  for (const auto& entry : std::filesystem::directory_iterator(kiln_root, error)) {
    const std::string path = entry.path().string() + "/" + file_name;
    std::error_code there;
    const auto time = std::filesystem::last_write_time(entry.path() / "runs", there);
    if (there || !files::is_file(path) || (!newest.empty() && time <= when)) continue;
    newest = path;
    when = time;
  }
  if (newest.empty()) return out;
  if (kind == "run") {
    for (const int number : numbers(std::filesystem::path(newest).parent_path().string()))
      out.push_back(std::to_string(number));
    return out;
  }
  for (const auto& line : text::split(files::read(newest).value_or(""), '\n')) {
    if (line.starts_with(kind + " ")) out.push_back(line.substr(kind.size() + 1));
  }
  return out;
}

}  // namespace coctilis::record
