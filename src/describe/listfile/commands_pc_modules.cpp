// The commands around .pc modules.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "locate/pc_file.h"

namespace coctilis::describe::listfile {

namespace {

void put(Evaluator& e, const std::string& name, const std::string& text) {
  e.set_cache(name, text, "INTERNAL", "", true, {});
  e.set(name, text);
}

// How to compile and link, in the variables that begin with `prefix`.
void set_usage_variables(Evaluator& e, const std::string& prefix, const model::Usage& usage) {
  std::vector<std::string> libraries;
  std::vector<std::string> files;
  std::vector<std::string> link_flags;
  std::vector<std::string> other;
  for (const auto& folder : usage.link_folders) link_flags.push_back("-L" + folder);
  for (const auto& item : usage.link_items) {
    link_flags.push_back(item);
    if (!item.starts_with("-l")) {
      other.push_back(item);
      continue;
    }
    libraries.push_back(item.substr(2));
    const auto file =
        e.locator.link_name({model::RequirementKind::library, item.substr(2), {}, false, {}, {}}, usage.link_folders);
    files.push_back(file.found ? file.where : item);
  }
  std::vector<std::string> compile_flags = usage.compile_options;
  for (const auto& folder : usage.include_folders) compile_flags.push_back("-I" + folder);
  for (const auto& definition : usage.definitions) compile_flags.push_back("-D" + definition);
  std::vector<std::string> compile_other = usage.compile_options;
  for (const auto& definition : usage.definitions) compile_other.push_back("-D" + definition);
  put(e, prefix + "_LIBRARIES", list_join(libraries));
  put(e, prefix + "_LINK_LIBRARIES", list_join(files));
  put(e, prefix + "_LIBRARY_DIRS", list_join(usage.link_folders));
  put(e, prefix + "_LDFLAGS", list_join(link_flags));
  put(e, prefix + "_LDFLAGS_OTHER", list_join(other));
  put(e, prefix + "_INCLUDE_DIRS", list_join(usage.include_folders));
  put(e, prefix + "_CFLAGS", list_join(compile_flags));
  put(e, prefix + "_CFLAGS_OTHER", list_join(compile_other));
}

// What the file of one module says of itself.
void set_module_facts(Evaluator& e, const std::string& prefix, const model::Finding& finding) {
  const auto file = locate::parse_pc(files::read(finding.where).value_or(""), finding.where);
  const auto fact = [&](const std::string& name) {
    if (!file) return std::string{};
    const auto it = file->variables.find(name);
    return it == file->variables.end() ? std::string{} : it->second;
  };
  put(e, prefix + "_VERSION", finding.version);
  put(e, prefix + "_MODULE_NAME", finding.requirement.name);
  put(e, prefix + "_PREFIX", fact("prefix"));
  put(e, prefix + "_INCLUDEDIR", fact("includedir"));
  put(e, prefix + "_LIBDIR", fact("libdir"));
}

void add_usage(model::Usage& into, const model::Usage& from) {
  const auto more = [](auto& list, const auto& other) { list.insert(list.end(), other.begin(), other.end()); };
  more(into.include_folders, from.include_folders);
  more(into.definitions, from.definitions);
  more(into.compile_options, from.compile_options);
  more(into.link_folders, from.link_folders);
  more(into.link_items, from.link_items);
}

void pkg_modules(Evaluator& e, const Invocation& i, bool first_only) {
  e.need(i, 2, i.name + "(PREFIX modules...)");
  bool required = false;
  bool imported = false;
  std::vector<std::string> modules;
  for (const auto& word : i.texts(1)) {
    if (word == "REQUIRED")
      required = true;
    else if (word == "IMPORTED_TARGET")
      imported = true;
    else if (word != "QUIET" && word != "GLOBAL" && word != "NO_CMAKE_PATH" && word != "NO_CMAKE_ENVIRONMENT_PATH")
      modules.push_back(word);
  }
  model::Usage all;
  model::Usage statically;
  model::Finding last;
  bool found = !first_only;
  for (const auto& module : modules) {
    const auto requirements = locate::pc_requirements(module);
    if (requirements.empty()) continue;
    const auto& requirement = requirements.front();
    model::Requirement want{model::RequirementKind::library,
                            requirement.name,
                            requirement.operation.empty() ? "" : requirement.operation + " " + requirement.version,
                            required,
                            i.name,
                            i.place};
    auto finding = e.locator.module(want);
    if (first_only && !finding.found) {
      last = finding;
      continue;
    }
    if (finding.found) {
      add_usage(all, finding.usage);
      add_usage(statically, e.locator.module(want, true).usage);
      if (modules.size() == 1 || first_only) set_module_facts(e, i[0], finding);
      if (modules.size() > 1 && !first_only) set_module_facts(e, i[0] + "_" + requirement.name, finding);
    }
    found = first_only ? finding.found : found && finding.found;
    last = finding;
    e.keep(std::move(finding));
    if (first_only) break;
  }
  if (first_only && !found) e.keep(last);
  put(e, i[0] + "_FOUND", found ? "1" : "");
  set_usage_variables(e, i[0], all);
  set_usage_variables(e, i[0] + "_STATIC", statically);
  if (imported && (found || required)) imported_target(e, "PkgConfig::" + i[0], all, i);
}
void command_pkg_check_modules(Evaluator& e, const Invocation& i) { pkg_modules(e, i, false); }
void command_pkg_search_module(Evaluator& e, const Invocation& i) { pkg_modules(e, i, true); }

void command_pkg_get_variable(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "pkg_get_variable(RESULT MODULE NAME)");
  const auto search =
      locate::pc_search(e.locator.settings().prefixes, e.locator.toolchain().machine, e.locator.settings().sysroot);
  const auto module = locate::find_pc({i[1], "", ""}, search);
  const auto it = module.file.variables.find(i[2]);
  e.set(i[0], it == module.file.variables.end() ? "" : it->second);
}

}  // namespace

void add_pc_module_commands(CommandTable& table) {
  table["pkg_check_modules"] = command_pkg_check_modules;
  table["pkg_search_module"] = command_pkg_search_module;
  table["pkg_get_variable"] = command_pkg_get_variable;
}

}  // namespace coctilis::describe::listfile
