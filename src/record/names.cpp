#include "record/names.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "record/record.h"

namespace coctilis::record {

namespace {

constexpr const char* file_name = "names";
constexpr std::size_t most = 20000;

}  // namespace

void keep_names(const model::Run& run) {
  std::string out;
  std::size_t count = 0;
  const auto add = [&](const char* kind, const std::string& name) {
    if (name.empty() || name.find('\n') != std::string::npos || ++count > most) return;
    out += std::string(kind) + " " + name + "\n";
  };
  for (const auto& target : run.plan.targets) add("target", target.name);
  for (const auto& option : run.project.options) add("option", option.name);
  for (const auto& check : run.checks) add("check", check.name);
  if (run.checks.empty()) {
    for (const auto& name : names_in(std::filesystem::path(run.kiln).parent_path().string(), "check"))
      add("check", name);
  }
  for (const auto& [name, variant] : run.settings.variants) add("variant", name);
  for (const auto& finding : run.findings) add("library", finding.requirement.name);
  for (const auto& step : run.plan.steps) {
    if (!step.source.empty()) add("source", files::below(step.source, run.tree));
  }
  files::write_if_different(run.kiln + "/" + file_name, out);
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
