// Projects of their own that a description would load, build and install while it is built itself. That is not done
// here: one that is needed is a want, the others are left out.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

const std::vector<std::string>& external_one_value() {
  static const std::vector<std::string> words = {
      "PREFIX",           "TMP_DIR",        "STAMP_DIR",     "LOG_DIR",         "DOWNLOAD_DIR",
      "SOURCE_DIR",       "BINARY_DIR",     "INSTALL_DIR",   "URL_HASH",        "URL_MD5",
      "DOWNLOAD_NAME",    "GIT_REPOSITORY", "GIT_TAG",       "GIT_REMOTE_NAME", "GIT_SHALLOW",
      "GIT_PROGRESS",     "SVN_REPOSITORY", "SVN_REVISION",  "HG_REPOSITORY",   "HG_TAG",
      "SOURCE_SUBDIR",    "TIMEOUT",        "CMAKE_COMMAND", "CMAKE_GENERATOR", "BUILD_ALWAYS",
      "EXCLUDE_FROM_ALL", "LIST_SEPARATOR", "TLS_VERIFY",    "BUILD_IN_SOURCE", "TEST_BEFORE_INSTALL",
      "LOG_DOWNLOAD",     "LOG_UPDATE",     "LOG_CONFIGURE", "LOG_BUILD",       "UPDATE_DISCONNECTED",
      "LOG_INSTALL"};
  return words;
}
const std::vector<std::string>& external_many_values() {
  static const std::vector<std::string> words = {
      "URL",          "DEPENDS",       "GIT_SUBMODULES",   "GIT_CONFIG",       "DOWNLOAD_COMMAND", "UPDATE_COMMAND",
      "CMAKE_ARGS",   "PATCH_COMMAND", "CMAKE_CACHE_ARGS", "BUILD_BYPRODUCTS", "BUILD_COMMAND",    "CONFIGURE_COMMAND",
      "TEST_COMMAND", "STEP_TARGETS",  "INSTALL_COMMAND",  "COMMAND"};
  return words;
}

// The folders of a project by the words of its declaration, as its properties are called.
std::map<std::string, std::string> folders_of(const Evaluator& e, const std::string& name, const Keywords& words) {
  const std::string prefix = e.binary_path(words.has("PREFIX") ? words.get("PREFIX") : name + "-prefix");
  std::map<std::string, std::string> out = {{"PREFIX", prefix},
                                            {"TMP_DIR", prefix + "/tmp"},
                                            {"STAMP_DIR", prefix + "/src/" + name + "-stamp"},
                                            {"DOWNLOAD_DIR", prefix + "/src"},
                                            {"SOURCE_DIR", prefix + "/src/" + name},
                                            {"BINARY_DIR", prefix + "/src/" + name + "-build"},
                                            {"INSTALL_DIR", prefix}};
  for (auto& [key, folder] : out) {
    if (words.has(key) && key != "PREFIX") folder = e.binary_path(words.get(key));
  }
  return out;
}

std::string external_key(const std::string& name) { return "__external_" + name; }

void command_external_project(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "ExternalProject_Add(NAME ...)");
  const auto words = keywords(i.texts(1), {}, external_one_value(), external_many_values());
  Invocation target{"add_custom_target", {{i[0], true}}, i.place};
  e.call(target);
  const auto folders = folders_of(e, i[0], words);
  for (const auto& [key, folder] : folders) e.global_properties[external_key(i[0]) + "_" + key] = {e.word(folder, i)};
  // Nothing but a folder that is there already?
  const auto does_nothing = [&](const std::string& step) {
    const auto it = words.many.find(step);
    return it != words.many.end() && (it->second.empty() || it->second.front().empty());
  };
  const bool only_content =
      does_nothing("CONFIGURE_COMMAND") && does_nothing("BUILD_COMMAND") && does_nothing("INSTALL_COMMAND");
  if (only_content && files::is_folder(folders.at("SOURCE_DIR"))) return;
  if (auto* made = e.target(i[0]); made != nullptr) {
    // Built by default, unless the declaration, its folder, or a property that is set later says otherwise.
    made->in_default = e.directory().in_default;
    if (words.has("EXCLUDE_FROM_ALL"))
      made->properties["EXCLUDE_FROM_ALL"] = {e.word(words.get("EXCLUDE_FROM_ALL"), i)};
  }
  std::string from;
  for (const char* key : {"GIT_REPOSITORY", "HG_REPOSITORY", "SVN_REPOSITORY"}) {
    if (words.has(key)) from = words.get(key);
  }
  if (const auto urls = words.list("URL"); !urls.empty()) from = urls.front();
  std::string revision;
  for (const char* key : {"GIT_TAG", "HG_TAG", "SVN_REVISION", "URL_HASH", "URL_MD5"}) {
    if (words.has(key)) revision = words.get(key);
  }
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package, i[0], {}, true, i.name, i.place, {}};
  finding.how = "project of its own";
  finding.refused = true;
  finding.reason =
      "the description would " + std::string(from.empty() ? "" : "load it from " + from + " and ") + "build it" +
      (revision.empty() ? "" : ", revision " + revision) +
      ", which is left to its user; look for an option that takes an installed one (coctilis plan --options), or build "
      "it first and give its prefix with --with";
  e.own_projects.push_back(std::move(finding));
}

void command_get_external_property(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "ExternalProject_Get_Property(NAME properties...)");
  for (const auto& property : i.texts(1)) {
    const auto it = e.global_properties.find(external_key(i[0]) + "_" + property);
    if (it == e.global_properties.end())
      e.fail(i, "the project '" + i[0] + "' has no property '" + property + "'",
             "properties are SOURCE_DIR, BINARY_DIR, INSTALL_DIR and the like, of a project that was added before");
    e.set(property, Evaluator::joined(it->second));
  }
}

// Further steps of a project that is not built are not done either.
void command_add_step(Evaluator& e, const Invocation& i) { e.need(i, 1, i.name + "(NAME ...)"); }

}  // namespace

void finish_own_projects(Evaluator& e) {
  for (auto& finding : e.own_projects) {
    auto* target = e.target(finding.requirement.name);
    if (target != nullptr && !target->in_default)
      e.project.left_out.push_back({"project of its own", finding.requirement.name, finding.requirement.place});
    else
      e.keep(std::move(finding));
    // The target itself does nothing here.
    if (target != nullptr) target->in_default = false;
  }
}

void add_external_commands(CommandTable& table) {
  table["externalproject_add"] = command_external_project;
  table["externalproject_get_property"] = command_get_external_property;
  for (const char* name :
       {"externalproject_add_step", "externalproject_add_steptargets", "externalproject_add_stepdependencies"})
    table[name] = command_add_step;
}

}  // namespace coctilis::describe::listfile
