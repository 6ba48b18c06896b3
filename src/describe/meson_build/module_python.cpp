// The module "python": interpreters, and extension modules for them.
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/meson_build/module_tables.h"
#include "locate/known.h"

namespace coctilis::describe::meson_build {

namespace {

// The interpreter that the module is about.
const locate::KnownInterpreter& known() { return locate::known_interpreters().front(); }

PythonProgram& as_python(Self self) { return *std::static_pointer_cast<PythonProgram>(self); }

// The scheme is that for modules that belong to the system, where there is one.
constexpr const char* what_to_ask = R"(import json, sysconfig as s
k = {'scheme': 'deb_system'} if 'deb_system' in s.get_scheme_names() else {}
print(json.dumps({"version": s.get_python_version(), "paths": s.get_paths(**k),
  "variables": {k: str(v) for k, v in s.get_config_vars().items()}, "suffix": s.get_config_var("EXT_SUFFIX") or ".so"}))
)";

// What an interpreter tells of itself.
void learn(Evaluator& e, PythonProgram& of, const Arguments& a) {
  const auto ended = e.run_command({of.command.front(), "-c", what_to_ask}, e.source_folder(), {}, a);
  const auto told = nlohmann::json::parse(ended.output, nullptr, false);
  if (!ended.good() || !told.is_object()) {
    of.found = false;
    return;
  }
  const auto text_of = [](const nlohmann::json& in, const char* key) {
    return in.contains(key) && in[key].is_string() ? in[key].get<std::string>() : std::string();
  };
  of.version_short = text_of(told, "version");
  of.suffix = text_of(told, "suffix");
  if (of.suffix.empty() || of.suffix.find('/') != std::string::npos) of.suffix = ".so";
  for (const auto& [to, key] : {std::pair{&of.paths, "paths"}, {&of.variables, "variables"}}) {
    if (!told.contains(key) || !told[key].is_object()) continue;
    for (const auto& [name, value] : told[key].items()) {
      if (value.is_string()) (*to)[name] = value.get<std::string>();
    }
  }
  of.packages = files::below(of.paths["purelib"], of.paths["data"]);
  of.platform_packages = files::below(of.paths["platlib"], of.paths["data"]);
}

Value find_installation(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"required", "modules", "pure", "disabler"});
  auto out = std::make_shared<PythonProgram>();
  const auto wanted = e.wanted(a);
  std::string name = a.positional.empty() ? "" : e.text(a, 0);
  if (name.empty() || lists::contains(known().programs, name)) name = known().name;
  const auto program = e.find_program({Value(name)}, wanted, a);
  static_cast<Program&>(*out) = *program;
  if (out->found) learn(e, *out, a);
  for (const auto& module : e.texts(a, "modules")) {
    if (!out->found) break;
    const auto ended = e.run_command(
        {out->command.front(), "-c", "import importlib, sys; importlib.import_module(sys.argv[1])", module},
        e.source_folder(), {}, a);
    if (ended.good()) continue;
    out->found = false;
    if (wanted.required)
      e.fail(a, "the module '" + text::printable_line(module) + "' of Python is not there", "install it");
  }
  if (!out->found && e.truth_or(a, "disabler", false)) return object(std::make_shared<Disabler>());
  return object(std::move(out));
}

std::string packages_of(Evaluator& e, const PythonProgram& of, const Arguments& a) {
  const bool pure = e.truth_or(a, "pure", true);
  const std::string told = e.built_in(pure ? "python.purelibdir" : "python.platlibdir");
  std::string out = !told.empty() ? e.below_prefix(told) : pure ? of.packages : of.platform_packages;
  if (const std::string below = e.text_or(a, "subdir"); !below.empty()) out += "/" + below;
  return out;
}

Value extension_module(Evaluator& e, Self self, Arguments& a) {
  const auto& of = as_python(self);
  Arguments inner = a;
  inner.name = "shared_module";
  inner.named.clear();
  for (const auto& [key, value] : a.named) {
    if (key != "subdir" && key != "limited_api" && key != "pure") inner.named.emplace_back(key, value);
  }
  const bool limited = a.find("limited_api") != nullptr;
  inner.named.emplace_back("name_prefix", Value(""));
  inner.named.emplace_back("name_suffix", Value(limited ? "abi3.so" : of.suffix.substr(1)));
  Arguments place = a;
  place.named.emplace_back("pure", Value(false));
  if (a.find("install_dir") == nullptr) inner.named.emplace_back("install_dir", Value(packages_of(e, of, place)));
  // Its headers are found without being asked for.
  bool has_headers = false;
  for (const auto& one : e.list(a, "dependencies")) {
    const auto dependency = one.as<Dependency>();
    has_headers = has_headers || (dependency && dependency->name.starts_with(known().name));
  }
  if (!has_headers) {
    Arguments wish;
    wish.name = "dependency";
    wish.place = a.place;
    const auto dependency = e.find_dependency({known().name}, wish);
    Array all = {object(dependency)};
    for (auto& one : inner.named) {
      if (one.first != "dependencies") continue;
      for (const auto& held : flattened(one.second)) all.push_back(held);
      one.second = Value(all);
      all.clear();
    }
    if (!all.empty()) inner.named.emplace_back("dependencies", Value(std::move(all)));
  }
  return e.call("shared_module", inner);
}

Value install_sources(Evaluator& e, Self self, Arguments& a) {
  e.check_names(a, {"pure", "subdir", "preserve_path", "install_tag"});
  const std::string folder = packages_of(e, as_python(self), a);
  for (const auto& value : flattened(a.positional)) {
    for (const auto& path : e.paths_of({value}, a)) {
      const bool whole = e.truth_or(a, "preserve_path", false) && value.text() != nullptr;
      e.install_file(path, folder + "/" + (whole ? *value.text() : path.substr(path.rfind('/') + 1)), 0644, a);
    }
  }
  return {};
}

Value get_install_dir(Evaluator& e, Self self, Arguments& a) {
  const std::string folder = packages_of(e, as_python(self), a);
  return folder.starts_with('/') ? folder : e.built_in("prefix") + "/" + folder;
}
Value python_version(Evaluator&, Self self, Arguments&) { return as_python(self).version_short; }

Value python_dependency(Evaluator& e, Self, Arguments& a) {
  const auto found = e.find_dependency({known().name}, a);
  return object(found);
}

Value lookup(Evaluator& e, Self self, Arguments& a) {
  const bool paths = a.name.ends_with("path");
  const auto& table = paths ? as_python(self).paths : as_python(self).variables;
  const auto it = table.find(e.text(a, 0));
  if (a.name.starts_with("has_")) return it != table.end();
  if (it != table.end()) return it->second;
  if (a.positional.size() > 1) return a.positional[1];
  e.fail(a, "Python has no '" + text::printable_line(e.text(a, 0)) + "'");
}

}  // namespace

const MethodTable& python_module_methods() {
  static const MethodTable table = {{"find_installation", find_installation}, {"find_python", find_installation}};
  return table;
}

const MethodTable& python_methods() {
  static const MethodTable table = {{"extension_module", extension_module},
                                    {"install_sources", install_sources},
                                    {"get_install_dir", get_install_dir},
                                    {"language_version", python_version},
                                    {"dependency", python_dependency},
                                    {"get_path", lookup},
                                    {"has_path", lookup},
                                    {"get_variable", lookup},
                                    {"has_variable", lookup}};
  return table;
}

}  // namespace coctilis::describe::meson_build
