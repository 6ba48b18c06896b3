// Functions about the project itself: its name and options, what lies below it, what is told to its user.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"
#include "describe/meson_build/options.h"

namespace coctilis::describe::meson_build {

namespace {

// "c", "cpp" ...: the name that the planner has for it; empty: none.
std::string language_by(const std::string& name) {
  static const std::map<std::string, std::string> names = {{"c", "C"}, {"cpp", "C++"}, {"fortran", "Fortran"}};
  const auto it = names.find(text::lower(name));
  return it == names.end() ? "" : it->second;
}

bool add_languages(Evaluator& e, const Arguments& a, const std::vector<std::string>& names, bool required) {
  bool all = true;
  for (const auto& name : names) {
    const std::string language = language_by(name);
    if (language.empty()) {
      if (required)
        e.unknown(a, "sources in the language '" + text::clip(text::printable_line(name), 40) +
                         "' are not followed in this description");
      all = false;
      continue;
    }
    auto& known = e.scope().languages;
    if (std::find(known.begin(), known.end(), language) == known.end()) known.push_back(language);
    auto& of_project = e.project.languages;
    if (!e.locator.toolchain().compiler(language).present() && !required) {
      all = false;
      continue;
    }
    if (std::find(of_project.begin(), of_project.end(), language) == of_project.end()) of_project.push_back(language);
  }
  return all;
}

Value project(Evaluator& e, Arguments& a) {
  e.check_names(a, {"version", "license", "license_files", "default_options", "meson_version", "subproject_dir"});
  auto& scope = e.scope();
  if (scope.begun) e.fail(a, "project(...) is called a second time");
  scope.name = e.text(a, 0);
  scope.begun = true;
  if (const auto* version = a.find("version")) {
    if (const auto file = version->as<File>();
        file || (version->array() != nullptr && !version->array()->empty() && version->array()->front().as<File>())) {
      const std::string path = file ? file->path : version->array()->front().as<File>()->path;
      scope.version = std::string(text::trim(files::read(path).value_or("")));
    } else {
      scope.version = e.text_or(a, "version");
    }
  }
  if (scope.version.empty()) scope.version = "undefined";
  if (const auto license = e.texts(a, "license"); !license.empty()) scope.license = license[0];
  std::vector<std::string> languages;
  for (const auto& one : flattened(std::vector<Value>(a.positional.begin() + 1, a.positional.end()))) {
    if (one.text() == nullptr) e.fail(a, "languages are texts");
    languages.push_back(*one.text());
  }
  std::vector<std::string> defaults;
  if (const auto* given = a.find("default_options")) {
    if (const auto* dictionary = given->dictionary()) {
      for (const auto& [key, value] : *dictionary) defaults.push_back(key + "=" + shown(value));
    } else {
      defaults = e.texts(a, "default_options");
    }
  }
  set_default_options(e, defaults);
  for (const char* name : {"meson.options", "meson_options.txt"}) {
    if (!files::is_file(scope.folder + "/" + name)) continue;
    e.read_options(scope.folder + "/" + name);
    break;
  }
  settle_options(e);
  static_cast<void>(add_languages(e, a, languages, true));
  if (!scope.is_subproject) {
    e.project.name = scope.name;
    e.project.version = scope.version == "undefined" ? "" : scope.version;
  }
  return {};
}

Value add_languages_function(Evaluator& e, Arguments& a) {
  e.check_names(a, {"required", "native"});
  const auto wanted = e.wanted(a);
  if (wanted.off) return false;
  return add_languages(e, a, e.texts(flattened(a.positional), a), wanted.required);
}

Value subdir(Evaluator& e, Arguments& a) {
  e.check_names(a, {"if_found"});
  for (const auto& one : e.list(a, "if_found")) {
    const auto dependency = one.as<Dependency>();
    if (dependency && !dependency->found) return {};
  }
  const std::string name = e.text(a, 0);
  const std::string folder = e.source_path(name);
  if (!files::is_below(folder, e.scope().folder) || folder == e.source_folder())
    e.fail(a, "'" + text::printable_line(name) + "' is no folder below this one");
  const std::string file = folder + "/meson.build";
  if (!files::is_file(file))
    e.fail(a, "there is no meson.build in the folder '" + text::printable_line(e.shown_path(folder)) + "'",
           "bring the folder in, or leave it out there");
  e.read_file(file);
  return {};
}

Value subproject(Evaluator& e, Arguments& a) {
  e.check_names(a, {"default_options", "version", "required"});
  const auto wanted = e.wanted(a);
  if (wanted.off) return object(std::make_shared<SubprojectObject>());
  std::vector<std::string> defaults;
  if (const auto* given = a.find("default_options"); given != nullptr && given->dictionary() != nullptr) {
    for (const auto& [key, value] : *given->dictionary()) defaults.push_back(key + "=" + shown(value));
  } else {
    defaults = e.texts(a, "default_options");
  }
  const auto out = e.subproject(e.text(a, 0), wanted.required, a, defaults);
  if (!out->scope || version_holds(out->scope->version, e.texts(a, "version"))) return object(out);
  if (wanted.required)
    e.fail(a,
           "the subproject '" + text::printable_line(e.text(a, 0)) + "' is of version " +
               text::printable_line(out->scope->version) + ", and " + text::join(e.texts(a, "version"), ", ") +
               " is wanted",
           "bring in another version of it");
  return object(std::make_shared<SubprojectObject>());
}

std::string said(const Arguments& a) {
  std::string out;
  for (const auto& one : a.positional) out += (out.empty() ? "" : " ") + shown(one);
  return out;
}

Value message(Evaluator& e, Arguments& a) {
  e.project.messages.push_back(text::printable(said(a)));
  return {};
}
Value warning(Evaluator& e, Arguments& a) {
  e.warn(a.place, text::printable(said(a)));
  return {};
}
Value error(Evaluator& e, Arguments& a) { e.fail(a, "the description says: " + text::printable(said(a))); }
Value assertion(Evaluator& e, Arguments& a) {
  const auto* holds = a.positional.empty() ? nullptr : a.positional[0].boolean();
  if (holds == nullptr) e.fail(a, "assert() is given something that is neither true nor false");
  if (!*holds)
    e.fail(a, a.positional.size() > 1 ? "the description says: " + text::printable(shown(a.positional[1]))
                                      : "a condition of the description does not hold");
  return {};
}
Value summary(Evaluator& e, Arguments& a) {
  const auto add = [&](const std::string& key, const Value& value) {
    std::string text;
    for (const auto& one : value.array() != nullptr ? *value.array() : Array{value}) {
      const auto dependency = one.as<Dependency>();
      const auto program = one.as<Program>();
      text += (text.empty() ? "" : " ") + (dependency ? (dependency->found ? "found" : "not found")
                                           : program  ? (program->found ? "found" : "not found")
                                                      : shown(one));
    }
    e.project.messages.push_back(text::printable(key + ": " + text));
  };
  if (a.positional.size() == 1 && a.positional[0].dictionary() != nullptr) {
    for (const auto& [key, value] : *a.positional[0].dictionary()) add(key, value);
  } else if (a.positional.size() == 2) {
    add(e.text(a, 0), a.positional[1]);
  }
  return {};
}

Value get_option(Evaluator& e, Arguments& a) { return e.option(e.text(a, 0), a); }

Value get_variable(Evaluator& e, Arguments& a) {
  if (a.positional.empty()) e.fail(a, "get_variable() needs a name");
  const std::string name = e.text(a, 0);
  const auto it = e.scope().variables.find(name);
  if (it != e.scope().variables.end()) return it->second;
  if (a.positional.size() > 1) return a.positional[1];
  e.fail(a, "'" + text::printable_line(name) + "' has no value");
}
Value set_variable(Evaluator& e, Arguments& a) {
  if (a.positional.size() != 2) e.fail(a, "set_variable() needs a name and a value");
  e.assign(e.text(a, 0), a.positional[1]);
  return {};
}
Value unset_variable(Evaluator& e, Arguments& a) {
  e.scope().variables.erase(e.text(a, 0));
  return {};
}
Value is_variable(Evaluator& e, Arguments& a) { return e.scope().variables.contains(e.text(a, 0)); }
Value is_disabler(Evaluator&, Arguments& a) {
  return !a.positional.empty() && a.positional[0].as<Disabler>() != nullptr;
}
Value disabler(Evaluator&, Arguments&) { return object(std::make_shared<Disabler>()); }

Value join_paths(Evaluator& e, Arguments& a) {
  std::string out;
  for (const auto& part : e.texts(flattened(a.positional), a))
    out = part.starts_with('/') || out.empty() ? part : out.ends_with('/') ? out + part : out + "/" + part;
  return out;
}

Value files_function(Evaluator& e, Arguments& a) {
  Array out;
  for (const auto& one : flattened(a.positional)) {
    if (one.as<File>()) {
      out.push_back(one);
      continue;
    }
    if (one.text() == nullptr) e.fail(a, std::string(one.kind()) + " is no name of a file");
    const std::string path = e.source_path(*one.text());
    if (!files::exists(path))
      e.fail(a, "the file '" + text::printable_line(e.shown_path(path)) + "' is not there",
             "check the path, or bring in what is missing of the tree");
    out.push_back(object(std::make_shared<File>(path)));
  }
  return out;
}

Value include_directories(Evaluator& e, Arguments& a) {
  e.check_names(a, {"is_system"});
  auto out = std::make_shared<IncludeFolders>();
  out->system = e.truth_or(a, "is_system", false);
  for (const auto& one : flattened(a.positional)) {
    if (const auto held = one.as<IncludeFolders>()) {
      out->folders.insert(out->folders.end(), held->folders.begin(), held->folders.end());
      continue;
    }
    if (one.text() == nullptr) e.fail(a, std::string(one.kind()) + " is no name of a folder");
    const std::string path = e.source_path(*one.text());
    const bool own = files::is_below(path, e.tree) && !files::is_below(path, e.work);
    if (own) out->folders.push_back(e.result_folder_of(path));
    out->folders.push_back(path);
  }
  return object(std::move(out));
}

Value range(Evaluator& e, Arguments& a) {
  std::vector<std::int64_t> numbers;
  for (const auto& one : a.positional) {
    if (one.number() == nullptr) e.fail(a, "range() is about numbers");
    numbers.push_back(*one.number());
  }
  if (numbers.empty() || numbers.size() > 3) e.fail(a, "range() needs from one to three numbers");
  const std::int64_t begin = numbers.size() > 1 ? numbers[0] : 0;
  const std::int64_t end = numbers.size() > 1 ? numbers[1] : numbers[0];
  const std::int64_t step = numbers.size() > 2 ? numbers[2] : 1;
  if (step < 1 || begin < 0 || end < begin)
    e.fail(a, "range() goes from a number to one that is no less, by steps of at least 1");
  Array out;
  for (std::int64_t i = begin; i < end; i += step) {
    e.count(a.place);
    if (out.size() >= 1'000'000) e.fail(a, "range() gives too many numbers");
    out.emplace_back(i);
    if (end - i <= step) break;
  }
  return out;
}

// add_project_arguments and the like, by which of the lists they add to.
void add_arguments(Evaluator& e, const Arguments& a, std::map<std::string, std::vector<std::string>>& to) {
  e.check_names(a, {"language", "native"});
  if (e.truth_or(a, "native", false) && e.locator.toolchain().foreign) return;
  const auto words = e.texts(flattened(a.positional), a);
  for (const auto& name : e.texts(a, "language")) {
    auto& list = to[language_by(name)];
    list.insert(list.end(), words.begin(), words.end());
  }
}
Value add_project_arguments(Evaluator& e, Arguments& a) {
  add_arguments(e, a, e.scope().arguments);
  return {};
}
Value add_project_link_arguments(Evaluator& e, Arguments& a) {
  add_arguments(e, a, e.scope().link_arguments);
  return {};
}
Value add_global_arguments(Evaluator& e, Arguments& a) {
  add_arguments(e, a, e.global_arguments);
  return {};
}
Value add_global_link_arguments(Evaluator& e, Arguments& a) {
  add_arguments(e, a, e.global_link_arguments);
  return {};
}

Value configuration_data(Evaluator& e, Arguments& a) {
  auto out = std::make_shared<ConfigurationData>();
  if (!a.positional.empty()) {
    if (a.positional[0].dictionary() == nullptr) e.fail(a, "configuration_data() takes a dictionary");
    for (const auto& [key, value] : *a.positional[0].dictionary()) out->set(key, value);
  }
  return object(std::move(out));
}

Value environment(Evaluator& e, Arguments& a) {
  auto out = std::make_shared<EnvironmentObject>();
  if (!a.positional.empty()) {
    Value first = a.positional[0];
    out->values = e.environment_of(&first, a);
  }
  return object(std::move(out));
}

Value import(Evaluator& e, Arguments& a) {
  e.check_names(a, {"required", "disabler"});
  const auto wanted = e.wanted(a);
  std::string name = e.text(a, 0);
  for (const char* before : {"unstable-", "unstable_"}) {
    if (name.starts_with(before)) name = name.substr(std::string(before).size());
  }
  auto out = std::make_shared<Module>();
  out->name = name;
  out->found = !wanted.off && !module_methods(name).empty();
  if (!out->found && wanted.required && !wanted.off)
    e.unknown(a, "the module '" + text::clip(text::printable_line(name), 60) + "' is not known here");
  return object(std::move(out));
}

Value leave_file(Evaluator&, Arguments&) { throw LeaveFile{}; }
Value nothing(Evaluator&, Arguments&) { return {}; }

}  // namespace

void add_basic_functions(FunctionTable& table) {
  table["project"] = project;
  table["add_languages"] = add_languages_function;
  table["subdir"] = subdir;
  table["subdir_done"] = leave_file;
  table["subproject"] = subproject;
  table["message"] = message;
  table["warning"] = warning;
  table["error"] = error;
  table["assert"] = assertion;
  table["summary"] = summary;
  table["debug"] = nothing;  // told to those who look for faults in the description
  table["get_option"] = get_option;
  table["get_variable"] = get_variable;
  table["set_variable"] = set_variable;
  table["unset_variable"] = unset_variable;
  table["is_variable"] = is_variable;
  table["is_disabler"] = is_disabler;
  table["disabler"] = disabler;
  table["join_paths"] = join_paths;
  table["files"] = files_function;
  table["include_directories"] = include_directories;
  table["range"] = range;
  table["add_project_arguments"] = add_project_arguments;
  table["add_project_link_arguments"] = add_project_link_arguments;
  table["add_global_arguments"] = add_global_arguments;
  table["add_global_link_arguments"] = add_global_link_arguments;
  table["configuration_data"] = configuration_data;
  table["environment"] = environment;
  table["import"] = import;
  table["add_test_setup"] = nothing;  // other ways of running the same tests, by name
}

}  // namespace coctilis::describe::meson_build
