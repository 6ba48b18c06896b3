// find_package: what a description calls a package is found in the tree's own search files, among the well-known
// libraries and programs, or by the description that the package itself installs.
#include <dirent.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/packages.h"
#include "describe/listfile/tool.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

namespace {

PackageWish read_wish(Evaluator& e, const Invocation& i) {
  PackageWish wish;
  wish.name = i[0];
  if (wish.name.empty())
    e.fail(i.place, "find_package is given no name", "name the package; a variable may have no value here");
  std::string list;
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (word == "EXACT")
      wish.exact = true;
    else if (word == "QUIET")
      wish.quiet = true;
    else if (word == "REQUIRED") {
      wish.required = true;
      list = "components";
    } else if (word == "CONFIG" || word == "NO_MODULE")
      wish.config_only = true;
    else if (word == "MODULE")
      wish.module_only = true;
    else if (word == "COMPONENTS")
      list = "components";
    else if (word == "OPTIONAL_COMPONENTS")
      list = "optional";
    else if (word == "NAMES" || word == "CONFIGS")
      list = "names";
    else if (word == "HINTS" || word == "PATHS")
      list = "hints";
    else if (word == "PATH_SUFFIXES")
      list = "suffixes";
    else if (word.starts_with("NO_") || word == "GLOBAL" || word == "BYPASS_PROVIDER" || word == "NO_POLICY_SCOPE")
      list.clear();
    else if (word.empty())
      continue;  // of a variable that has no value
    else if (k == 1 && std::isdigit(static_cast<unsigned char>(word[0])) != 0)
      wish.version = word.substr(0, word.find("..."));
    else if (list == "components")
      wish.components.push_back(word);
    else if (list == "optional")
      wish.optional_components.push_back(word);
    else if (list == "names")
      wish.names.push_back(word);
    else if (list == "hints")
      wish.hints.push_back(e.source_path(word));
    else if (list != "suffixes")
      e.not_understood(i, "'" + word + "' in find_package(...)");
  }
  // QUIET and the like may stand behind REQUIRED: they are no components.
  if (wish.names.empty()) wish.names = {wish.name};
  return wish;
}

// What a search file, or a package's own description, is told of the parts that are asked for.
void set_components(Evaluator& e, const PackageWish& wish) {
  auto all = wish.components;
  all.insert(all.end(), wish.optional_components.begin(), wish.optional_components.end());
  e.set(wish.name + "_FIND_COMPONENTS", list_join(all));
  for (const auto& component : wish.components) e.set(wish.name + "_FIND_REQUIRED_" + component, "1");
  for (const auto& component : wish.optional_components) e.set(wish.name + "_FIND_REQUIRED_" + component, "0");
}

// The version that is asked for, whole and in parts; those that are not given are 0.
void set_version(Evaluator& e, const PackageWish& wish, const std::string& prefix) {
  const auto parts = wish.version.empty() ? std::vector<std::string>{} : text::split(wish.version, '.');
  e.set(prefix, wish.version);
  e.set(prefix + "_COUNT", std::to_string(parts.size()));
  const char* const names[] = {"MAJOR", "MINOR", "PATCH", "TWEAK"};
  for (std::size_t k = 0; k < 4; ++k) e.set(prefix + "_" + names[k], k < parts.size() ? parts[k] : "0");
}

// The variable is for the time of the search only.
struct NamedPackage {
  Evaluator& e;
  std::string before;
  NamedPackage(Evaluator& evaluator, const std::string& name)
      : e(evaluator), before(evaluator.value("CMAKE_FIND_PACKAGE_NAME")) {
    e.set("CMAKE_FIND_PACKAGE_NAME", name);
  }
  ~NamedPackage() { e.set("CMAKE_FIND_PACKAGE_NAME", before); }
  NamedPackage(const NamedPackage&) = delete;
  NamedPackage& operator=(const NamedPackage&) = delete;
};

// ---- the tree's own search files -----------------------------------------------------------------------------------

// The value of the first of some variables that names something and does not say that nothing was found.
std::string first_that_is_there(const Evaluator& e, const std::vector<std::string>& names) {
  for (const auto& name : names) {
    const std::string value = e.value(name);
    if (!value.empty() && !value.ends_with("-NOTFOUND")) return value;
  }
  return "";
}

bool find_by_module_file(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  for (const auto& folder : list_elements(e.value("CMAKE_MODULE_PATH"))) {
    const std::string path = files::absolute(folder, e.directory().source) + "/Find" + wish.name + ".cmake";
    if (!files::is_file(path)) continue;
    e.set(wish.name + "_FIND_REQUIRED", wish.required ? "1" : "0");
    e.set(wish.name + "_FIND_QUIETLY", wish.quiet ? "1" : "0");
    set_version(e, wish, wish.name + "_FIND_VERSION");
    e.set(wish.name + "_FIND_VERSION_EXACT", wish.exact ? "1" : "0");
    set_components(e, wish);
    {
      const NamedPackage named(e, wish.name);
      e.run_file(path, i);
    }
    const bool found = e.on(wish.name + "_FOUND") || e.on(text::upper(wish.name) + "_FOUND");
    model::Finding finding;
    finding.requirement = requirement_of(wish, model::RequirementKind::package, i);
    finding.found = found;
    finding.how = "by " + e.shown(path);
    if (found) finding.where = first_that_is_there(e, {wish.name + "_LIBRARY", wish.name + "_LIBRARIES"});
    finding.version = found ? e.value(wish.name + "_VERSION") : "";
    // A search file that is content does not always say so: then nothing is amiss.
    const bool silent = e.find(wish.name + "_FOUND") == nullptr && e.find(text::upper(wish.name) + "_FOUND") == nullptr;
    if (!found) {
      if (silent) finding.requirement.required = false;
      finding.looked = {"what " + e.shown(path) + " looks for"};
      if (silent) finding.reason = "the file does not say whether it is there";
      if (const auto* known = locate::known_library(wish.name)) finding.package = known->package;
    }
    e.keep(std::move(finding));
    return true;
  }
  return false;
}

// ---- well-known libraries ------------------------------------------------------------------------------------------

// The components that are asked for, each a library beside the others. Gives their files; those that are not there make
// the whole thing missing when they are required.
std::vector<std::string> find_components(Evaluator& e, const PackageWish& wish, const locate::KnownLibrary& known,
                                         model::Finding& finding, const Invocation& i) {
  std::vector<std::string> files;
  const auto one = [&](const std::string& component, bool required) {
    const std::string name = text::replace_all(known.component_library, "{}", component);
    const auto library = e.locator.link_name({model::RequirementKind::library, name, {}, required, i.name, i.place, {}},
                                             finding.usage.link_folders);
    e.set(wish.name + "_" + component + "_FOUND", library.found ? "TRUE" : "FALSE");
    if (library.found) {
      files.push_back(library.where);
      for (const auto& prefix : {wish.name, text::upper(wish.name)})
        e.set(prefix + "_" + text::upper(component) + "_LIBRARY", library.where);
      model::Usage usage = finding.usage;
      usage.link_items = {library.where};
      if (!known.component_target.empty())
        imported_target(e, text::replace_all(known.component_target, "{}", component), usage, i);
    } else if (required) {
      finding.found = false;
      finding.reason = "the component '" + component + "' is not there (" + name + ")";
      finding.looked = library.looked;
      if (finding.package.empty()) finding.package = known.package;
    }
  };
  for (const auto& component : wish.components) one(component, true);
  for (const auto& component : wish.optional_components) one(component, false);
  return files;
}

// Components that are entries of the table of their own: bindings of a library for several languages, say.
void find_component_entries(Evaluator& e, const PackageWish& wish, const locate::KnownLibrary& known,
                            model::Finding& finding, const Invocation& i) {
  const auto asked = [&](const std::string& component) {
    return std::find(wish.components.begin(), wish.components.end(), component) != wish.components.end();
  };
  for (const auto& [component, entry] : known.component_entries) {
    auto library =
        e.locator.library({model::RequirementKind::library, entry, {}, asked(component), i.name, i.place, {}});
    const std::string prefix = wish.name + "_" + component;
    e.set(prefix + "_FOUND", library.found ? "TRUE" : "FALSE");
    if (!library.found) {
      if (!asked(component)) continue;
      finding.found = false;
      finding.reason = "the component '" + component + "' is not there (" + entry + ")";
      finding.looked = library.looked;
      if (finding.package.empty()) finding.package = known.package;
      continue;
    }
    const auto& usage = library.usage;
    std::vector<std::string> items = usage.link_items;
    for (const auto& folder : usage.link_folders) items.insert(items.begin(), "-L" + folder);
    for (const char* name : {"_INCLUDE_DIRS", "_INCLUDE_PATH", "_ADDITIONAL_INCLUDE_DIRS"})
      e.set(prefix + name, list_join(usage.include_folders));
    e.set(prefix + "_LIBRARIES", list_join(items));
    e.set(prefix + "_COMPILE_OPTIONS", list_join(usage.compile_options));
    e.set(prefix + "_COMPILE_DEFINITIONS", list_join(usage.definitions));
    if (!known.component_target.empty())
      imported_target(e, text::replace_all(known.component_target, "{}", component), usage, i);
  }
}

// One value of the table's variables: what a word in braces stands for. Empty when it is not there.
std::string known_value(Evaluator& e, const model::Finding& finding, const std::vector<std::string>& includes,
                        const std::vector<std::string>& items, const std::string& word, const Invocation& i) {
  const auto at = word.find(':');
  const std::string kind = word.substr(0, at);
  const std::string name = at == std::string::npos ? "" : word.substr(at + 1);
  if (kind == "version") return finding.version;
  if (kind == "libraries") return list_join(items);
  if (kind == "include" && name.empty()) return includes.empty() ? "" : includes.front();
  if (kind == "include") {
    const auto header =
        e.locator.header({model::RequirementKind::header, name, {}, false, i.name, i.place, {}}, includes);
    return header.found ? header.where.substr(0, header.where.size() - name.size() - 1) : "";
  }
  if (kind == "library" && name.empty()) return items.empty() ? "" : items.front();
  if (kind == "library") {
    const auto library = e.locator.link_name({model::RequirementKind::library, name, {}, false, i.name, i.place, {}},
                                             finding.usage.link_folders);
    return library.found ? library.where : "";
  }
  if (kind == "program") {
    const auto program =
        e.locator.program({model::RequirementKind::program, name, {}, false, i.name, i.place, {}}, {name}, {});
    return program.found ? program.where : "";
  }
  return "";
}

void set_known_variables(Evaluator& e, const locate::KnownLibrary& known, const model::Finding& finding,
                         const std::vector<std::string>& includes, const std::vector<std::string>& items,
                         const Invocation& i) {
  for (const auto& [variable, pattern] : known.variables) {
    std::string value;
    bool there = true;
    for (std::size_t at = 0; at < pattern.size();) {
      const auto end = pattern[at] == '{' ? pattern.find('}', at) : std::string::npos;
      if (end == std::string::npos) {
        value += pattern[at++];
        continue;
      }
      const std::string part = known_value(e, finding, includes, items, pattern.substr(at + 1, end - at - 1), i);
      there = there && !part.empty();
      value += part;
      at = end + 1;
    }
    e.set(variable, there ? value : variable + "-NOTFOUND");
  }
}

bool find_known(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* known = locate::known_library(wish.name);
  if (known == nullptr) return false;
  auto finding = e.locator.library(requirement_of(wish, model::RequirementKind::library, i));
  finding.requirement.name = known->name;
  std::vector<std::string> components;
  if (!known->component_library.empty() && finding.found) components = find_components(e, wish, *known, finding, i);
  if (finding.found) find_component_entries(e, wish, *known, finding, i);
  set_found(e, wish, finding.found, finding.version);
  if (finding.found || wish.required) {
    std::vector<std::string> includes = finding.usage.include_folders;
    if (includes.empty() && !known->headers.empty()) {
      // The plain folder that holds the header, for those who use the variable.
      const auto header =
          e.locator.header({model::RequirementKind::header, known->headers.front(), {}, false, {}, {}}, {});
      if (header.found) includes = {header.where.substr(0, header.where.size() - known->headers.front().size() - 1)};
    }
    // Link by file where it can be told: names after -l may mean another library to the linker.
    std::vector<std::string> items;
    for (const auto& item : finding.usage.link_items) {
      std::string resolved = item;
      if (item.starts_with("-l")) {
        const auto file = e.locator.link_name({model::RequirementKind::library, item.substr(2), {}, false, {}, {}},
                                              finding.usage.link_folders);
        if (file.found) resolved = file.where;
      }
      items.push_back(resolved);
    }
    items.insert(items.end(), components.begin(), components.end());
    for (const std::string& prefix : {wish.name, text::upper(wish.name)}) {
      e.set(prefix + "_INCLUDE_DIRS", list_join(includes));
      e.set(prefix + "_INCLUDE_DIR", includes.empty() ? "" : includes.front());
      e.set(prefix + "_LIBRARIES", list_join(items));
      e.set(prefix + "_LIBRARY", items.empty() ? "" : items.front());
      e.set(prefix + "_DEFINITIONS", "");
    }
    model::Usage usage = finding.usage;
    usage.link_items = items;
    for (const auto& name : known->targets) imported_target(e, name, usage, i);
    for (const auto& [name, library] : known->library_targets) {
      const auto there = e.locator.link_name({model::RequirementKind::library, library, {}, false, i.name, i.place, {}},
                                             finding.usage.link_folders);
      model::Usage own = finding.usage;
      own.link_items = {there.where};
      if (there.found) imported_target(e, name, own, i);
    }
    for (const auto& [name, program] : known->program_targets) {
      const auto there =
          e.locator.program({model::RequirementKind::program, program, {}, false, i.name, i.place, {}}, {program}, {});
      imported_program(e, name, there.where, i);
    }
    if (finding.found) set_known_variables(e, *known, finding, includes, items, i);
    set_parts(e, *known, usage, i);
    set_beside(e, *known, items, i);
  }
  e.keep(std::move(finding));
  return true;
}

// ---- descriptions that packages install ----------------------------------------------------------------------------

bool same_package(const std::string& folder_name, const std::string& package) {
  const std::string lower = text::lower(folder_name);
  const std::string wanted = text::lower(package);
  return lower == wanted || (lower.starts_with(wanted) &&
                             std::string_view("-_0123456789.").find(lower[wanted.size()]) != std::string_view::npos);
}

// All places where the package's own description may lie.
std::vector<std::string> config_files(Evaluator& e, const PackageWish& wish) {
  std::vector<std::string> folders;
  const std::string place = wish.name + "_DIR";
  if (!e.value(place).empty() && !e.value(place).ends_with("NOTFOUND"))
    folders.push_back(e.source_path(e.value(place)));
  if (const std::string named = e.environment_value(place); !named.empty()) folders.push_back(e.source_path(named));
  std::vector<std::string> prefixes;
  if (e.policy_is_new(74)) {
    for (const auto& prefix : list_elements(e.value(wish.name + "_ROOT"))) prefixes.push_back(e.source_path(prefix));
    for (const auto& prefix : text::split(e.environment_value(wish.name + "_ROOT"), ':')) {
      if (!prefix.empty()) prefixes.push_back(e.source_path(prefix));
    }
  }
  prefixes.insert(prefixes.end(), wish.hints.begin(), wish.hints.end());
  for (const auto& prefix : list_elements(e.value("CMAKE_PREFIX_PATH"))) prefixes.push_back(e.source_path(prefix));
  for (const auto& prefix : text::split(e.environment_value("CMAKE_PREFIX_PATH"), ':')) {
    if (!prefix.empty()) prefixes.push_back(prefix);
  }
  for (const auto& prefix : e.locator.prefixes()) prefixes.push_back(prefix);
  const std::string machine = e.locator.toolchain().machine;
  for (const auto& prefix : prefixes) {
    folders.push_back(prefix);
    folders.push_back(prefix + "/cmake");
    for (const auto& middle : {"/lib/" + machine, std::string("/lib64"), std::string("/lib"), std::string("/share")}) {
      for (const std::string& base : {prefix + middle + "/cmake", prefix + middle}) {
        for (const auto& folder : files::names_in(base)) {
          for (const auto& name : wish.names) {
            if (!same_package(folder, name)) continue;
            folders.push_back(base + "/" + folder);
            folders.push_back(base + "/" + folder + "/cmake");
          }
        }
      }
    }
  }
  std::vector<std::string> out;
  for (const auto& folder : folders) {
    for (const auto& name : wish.names) {
      for (const auto& file : {name + "Config.cmake", text::lower(name) + "-config.cmake"})
        out.push_back(folder + "/" + file);
    }
  }
  return out;
}

// Asks the version file beside a package's description. True when the wish is met.
bool version_does(Evaluator& e, const PackageWish& wish, const std::string& config, std::string& version,
                  const Invocation& i) {
  const std::string base = config.ends_with("-config.cmake") ? config.substr(0, config.size() - 6) + "-version.cmake"
                                                             : config.substr(0, config.size() - 6) + "Version.cmake";
  if (!files::is_file(base)) return wish.version.empty();
  auto scope = e.push_scope();
  e.set("PACKAGE_FIND_NAME", wish.name);
  set_version(e, wish, "PACKAGE_FIND_VERSION");
  e.run_file(base, i);
  version = e.value("PACKAGE_VERSION");
  const bool does = wish.version.empty() ? !e.on("PACKAGE_VERSION_UNSUITABLE")
                                         : e.on(wish.exact ? "PACKAGE_VERSION_EXACT" : "PACKAGE_VERSION_COMPATIBLE");
  e.pop_scope(std::move(scope));
  return does;
}

void find_by_config(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::package, i);
  finding.how = "by its own description";
  std::vector<std::string> considered;
  for (const auto& path : config_files(e, wish)) {
    finding.looked.push_back(path);
    if (!files::is_file(path)) continue;
    std::string version;
    const bool does = version_does(e, wish, path, version, i);
    considered.push_back(version);
    if (!does) {
      finding.reason = "version " + version + " at " + path + " is not usable; required is " + wish.constraint();
      continue;
    }
    finding.found = true;
    finding.where = path;
    finding.version = version;
    break;
  }
  if (finding.found) {
    const std::string folder = std::filesystem::path(finding.where).parent_path().string();
    e.set(wish.name + "_DIR", folder);
    e.set(wish.name + "_CONFIG", finding.where);
    e.set(wish.name + "_CONSIDERED_CONFIGS", finding.where);
    set_components(e, wish);
    e.set(wish.name + "_FIND_REQUIRED", wish.required ? "1" : "0");
    e.set(wish.name + "_FIND_QUIETLY", wish.quiet ? "1" : "0");
    set_version(e, wish, wish.name + "_FIND_VERSION");
    set_found(e, wish, true, finding.version);
    for (const auto& component : wish.components) e.unset(wish.name + "_" + component + "_FOUND");
    e.set(wish.name + "_FOUND", "1");
    {
      const NamedPackage named(e, wish.name);
      e.run_file(finding.where, i);
    }
    if (e.find(wish.name + "_FOUND") != nullptr && !e.on(wish.name + "_FOUND")) {
      finding.found = false;
      finding.reason = e.value(wish.name + "_NOT_FOUND_MESSAGE");
    }
  }
  e.set(wish.name + "_CONSIDERED_VERSIONS", list_join(considered));
  if (!finding.found) {
    // What the package's own description says of itself stays.
    if (finding.where.empty()) {
      set_found(e, wish, false, "");
      e.set(wish.name + "_FOUND", "0");
    }
    e.set(text::upper(wish.name) + "_FOUND", e.value(wish.name + "_FOUND"));
    e.set(wish.name + "_DIR", wish.name + "_DIR-NOTFOUND");
    if (const auto* known = locate::known_library(wish.name)) finding.package = known->package;
  }
  e.keep(std::move(finding));
}

bool has_config(Evaluator& e, const PackageWish& wish) {
  const auto all = config_files(e, wish);
  return std::any_of(all.begin(), all.end(), files::is_file);
}

void command_find_package(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "find_package(NAME)");
  const PackageWish wish = read_wish(e, i);
  if (e.on("CMAKE_DISABLE_FIND_PACKAGE_" + wish.name)) {
    set_found(e, wish, false, "");
    e.set(wish.name + "_FOUND", "0");
    return;
  }
  if (!wish.config_only) {
    if (find_by_module_file(e, wish, i)) return;
    if (find_own_work(e, wish) || find_compiler_part(e, wish, i) || find_interpreter(e, wish, i) ||
        find_told(e, wish, i))
      return;
    // A package's own description knows its components best.
    const auto* known = locate::known_library(wish.name);
    if (known != nullptr && !known->component_library.empty() && has_config(e, wish)) {
      find_by_config(e, wish, i);
      return;
    }
    if (find_program_package(e, wish, i) || find_known(e, wish, i)) return;
  }
  find_by_config(e, wish, i);
}

// What find files call at their end: are all the variables set?
void command_handle_standard_args(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(NAME ...)");
  const auto words =
      keywords(i.texts(1), {"CONFIG_MODE", "HANDLE_COMPONENTS", "HANDLE_VERSION_RANGE", "NAME_MISMATCHED"},
               {"FOUND_VAR", "VERSION_VAR", "REASON_FAILURE_MESSAGE", "FAIL_MESSAGE"}, {"REQUIRED_VARS"});
  auto variables = words.list("REQUIRED_VARS");
  if (!words.has("REQUIRED_VARS")) {
    variables = words.rest;
    if (!variables.empty()) variables.erase(variables.begin());  // the old form begins with a message
  }
  bool found = true;
  for (const auto& variable : variables) found = found && e.on(variable);
  const std::string wanted = e.value(i[0] + "_FIND_VERSION");
  if (found && words.has("VERSION_VAR") && !wanted.empty()) {
    const std::string have = e.value(words.get("VERSION_VAR"));
    found = text::version_meets(have, (e.on(i[0] + "_FIND_VERSION_EXACT") ? "= " : ">= ") + wanted);
  }
  if (words.has("HANDLE_COMPONENTS")) {
    for (const auto& component : list_elements(e.value(i[0] + "_FIND_COMPONENTS"))) {
      if (e.on(i[0] + "_FIND_REQUIRED_" + component)) found = found && e.on(i[0] + "_" + component + "_FOUND");
    }
  }
  e.set(i[0] + "_FOUND", found ? "TRUE" : "FALSE");
  e.set(text::upper(i[0]) + "_FOUND", found ? "TRUE" : "FALSE");
}

void command_find_dependency(Evaluator& e, const Invocation& i) {
  // Within a package's own description: required exactly when the package is.
  Invocation inner = i;
  const std::string outer = e.value("CMAKE_FIND_PACKAGE_NAME");
  if (e.on(outer + "_FIND_REQUIRED")) inner.words.push_back({"REQUIRED", false});
  command_find_package(e, inner);
  e.set("CMAKE_FIND_PACKAGE_NAME", outer);
  if (!e.on(i[0] + "_FOUND")) {
    e.set(outer + "_FOUND", "FALSE");
    e.set(outer + "_NOT_FOUND_MESSAGE", outer + " needs " + i[0] + ", which is not there");
    e.set_flow(Flow::leave_function);
  }
}

}  // namespace

void add_package_commands(CommandTable& table) {
  table["find_package"] = command_find_package;
  table["find_dependency"] = command_find_dependency;
  table["find_package_handle_standard_args"] = command_handle_standard_args;
}

}  // namespace coctilis::describe::listfile
