#include "describe/script_modules.h"

#include <cstdlib>
#include <filesystem>

#include "base/embedded.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"

namespace coctilis::describe {

std::string put_script_modules(const std::string& folder, const std::string& work) {
  const std::string beginning = folder + "/";
  std::string all;
  for (const auto& file : embedded::data_tables) {
    if (file.path.starts_with(beginning)) all += file.content;
  }
  const std::string out = std::filesystem::path(work).parent_path().string() + "/" +
                          text::replace_all(folder, "_", "-") + "-" + hash_bytes(all).text().substr(0, 12);
  for (const auto& file : embedded::data_tables) {
    if (!file.path.starts_with(beginning)) continue;
    const std::string path = out + "/" + std::string(file.path.substr(beginning.size()));
    files::make_folder(std::filesystem::path(path).parent_path());
    files::write_if_different(path, file.content);
  }
  return out;
}

std::string script_interpreter(const std::string& name, const std::string& script, const ReadRequest& request) {
  const model::Requirement want{model::RequirementKind::program, name, {}, true, script, {script, 0, 0}, {}};
  const auto finding = request.locator.program(want, {name}, {});
  request.locator.keep(finding);
  if (!finding.found) throw Fault({Exit::missing, {script, 0, 0}, "the module needs " + name, {}, {}, {}});
  return finding.where;
}

model::Finding module_finding(const std::string& module, const std::string& script, const char* how, bool found,
                              const std::string& reason, const std::string& package, const ReadRequest& request) {
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package, module, {}, false, script, {script, 0, 0}, {}};
  finding.how = how;
  finding.found = found;
  if (found) return finding;
  finding.reason = reason;
  if (request.locator.packages().available(package)) finding.package = package;
  return finding;
}

void lacks(model::Finding finding, const std::string& script, const ReadRequest& request) {
  finding.requirement.required = true;
  const std::string what = finding.requirement.name;
  request.locator.keep(std::move(finding));
  throw Fault({Exit::missing, {script, 0, 0}, "the module needs what is not there: " + what, {}, {}, {}});
}

std::string users_variable(const char* name) {
  const char* value = std::getenv(name);
  return value == nullptr ? std::string{} : std::string(value);
}

}  // namespace coctilis::describe
