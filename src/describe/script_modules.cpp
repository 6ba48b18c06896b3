#include "describe/script_modules.h"

#include <cstdlib>
#include <filesystem>

#include "base/embedded.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"
#include "describe/configure/reader.h"
#include "describe/makefile/reader.h"
#include "describe/mirror.h"

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

std::vector<AskedModule> asked_modules(const std::string& output) {
  std::vector<AskedModule> out;
  for (const auto& check : configure::checks_in(output)) {
    if (check.name.starts_with(configure::module_mark))
      out.push_back({check.name.substr(configure::module_mark.size()), check.answer});
  }
  return out;
}

void lacks(model::Finding finding, const std::string& script, const ReadRequest& request) {
  finding.requirement.required = true;
  const std::string what = finding.requirement.name;
  request.locator.keep(std::move(finding));
  throw Fault({Exit::missing, {script, 0, 0}, "the module needs what is not there: " + what, {}, {}, {}});
}

model::Project read_by_script(const DescribingScript& script, const ReadRequest& request) {
  if (auto mirrored = mirror(request.survey.tree, request.work, request.services.made_by_step); !mirrored)
    throw Fault(mirrored.problem());
  auto environment = request.locator.environment();
  for (const auto& [name, value] : script.environment) environment[name] = value;
  request.locator.set_environment(environment);
  std::string output;
  auto ran = configure::run_script(script.name, request, {script.interpreter}, output);
  script.said(output);
  if (!ran) {
    script.failed(ran.problem(), output);
    throw Fault(ran.problem());
  }
  const std::string makefile = script.name.substr(0, script.name.rfind('/') + 1) + script.makefile;
  if (!files::is_file(request.work + "/" + makefile))
    throw Fault({Exit::description,
                 {script.name, 0, 0},
                 "it ends without a word on how the module is built",
                 text::printable_line(text::clip(std::string(text::trim(output)), 300)),
                 "it may not support this system: see what it says",
                 {}});
  auto project = makefile::read_in_mirror(makefile, request, environment);
  if (!project) throw Fault(project.problem());
  project->name = std::filesystem::path(request.survey.tree).filename().string();
  project->read_files.push_back(request.file);
  for (auto& warning : ran->warnings) project->warnings.push_back(std::move(warning));
  return std::move(*project);
}

std::string users_variable(const char* name) {
  const char* value = std::getenv(name);
  return value == nullptr ? std::string{} : std::string(value);
}

}  // namespace coctilis::describe
