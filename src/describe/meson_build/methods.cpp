// Methods of objects.
#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

Value process_with(Evaluator& e, Self self, Arguments& a);

namespace {

template <class T>
T& as(Self self) {
  return *std::static_pointer_cast<T>(self);
}

// ---- its own run
Value compiler_object(Evaluator& e, Self, Arguments& a) {
  static const std::map<std::string, std::string> names = {{"c", "C"}, {"cpp", "C++"}, {"fortran", "Fortran"}};
  const std::string name = text::lower(e.text(a, 0));
  const auto it = names.find(name);
  if (it == names.end())
    e.unknown(
        a, "the compiler of '" + text::clip(text::printable_line(name), 40) + "' is not followed in this description");
  if (!lists::contains(e.project.languages, it->second))
    e.fail(a, "'" + name + "' is none of the languages of the project", "name it in project(...), or add_languages()");
  auto out = std::make_shared<CompilerObject>();
  out->language = it->second;
  return object(std::move(out));
}
Value root_of_sources(Evaluator& e, Self, Arguments&) { return e.top->folder; }
Value root_of_results(Evaluator& e, Self, Arguments&) { return e.result_folder_of(e.top->folder); }
Value project_sources(Evaluator& e, Self, Arguments&) { return e.scope().folder; }
Value project_results(Evaluator& e, Self, Arguments&) { return e.result_folder_of(e.scope().folder); }
Value current_sources(Evaluator& e, Self, Arguments&) { return e.source_folder(); }
Value current_results(Evaluator& e, Self, Arguments&) {
  files::make_folder(e.result_folder());
  return e.result_folder();
}
Value project_name(Evaluator& e, Self, Arguments&) { return e.scope().name; }
Value project_version(Evaluator& e, Self, Arguments&) { return e.scope().version; }
Value project_license(Evaluator& e, Self, Arguments&) { return Array{Value(e.scope().license)}; }
// The release of the language that is covered: what a description asks of it is answered by what it uses.
Value language_version(Evaluator&, Self, Arguments&) { return "1.4.0"; }
Value is_subproject(Evaluator& e, Self, Arguments&) { return e.scope().is_subproject; }
Value is_foreign(Evaluator& e, Self, Arguments&) { return e.locator.toolchain().foreign; }
Value can_run(Evaluator& e, Self, Arguments&) {
  return !e.locator.toolchain().foreign || !e.locator.toolchain().launcher.empty();
}
Value is_unity(Evaluator&, Self, Arguments&) { return false; }
Value yes(Evaluator&, Self, Arguments&) { return true; }
Value backend(Evaluator&, Self, Arguments&) { return "none"; }
Value external_property(Evaluator&, Self, Arguments& a) {
  return a.positional.size() > 1 ? a.positional[1] : Value("");
}
Value has_external_property(Evaluator&, Self, Arguments&) { return false; }
Value override_program(Evaluator& e, Self, Arguments& a) {
  if (a.positional.size() != 2) e.fail(a, "override_find_program() needs a name and a program");
  const Value& given = a.positional[1];
  auto program = given.as<Program>();
  if (!program) {
    program = std::make_shared<Program>();
    program->found = true;
    program->name = e.text(a, 0);
    program->target = given.as<Target>();
    if (!program->target) {
      std::vector<std::string> inputs;
      program->command = e.command_words({given}, a, inputs);
    }
  }
  e.own_programs[e.text(a, 0)] = program;
  return {};
}
Value override_dependency(Evaluator& e, Self, Arguments& a) {
  const auto dependency = a.positional.size() > 1 ? a.positional[1].as<Dependency>() : nullptr;
  if (!dependency) e.fail(a, "override_dependency() needs a name and a dependency");
  e.own_dependencies[e.text(a, 0)] = dependency;
  return {};
}
Value add_script(Evaluator& e, Self, Arguments& a) {
  const std::string script = a.positional.empty() ? "" : text::printable_line(shown(a.positional[0]));
  if (a.name == "add_install_script")
    e.build.not_installed.push_back({"script", script, a.place, "scripts of an installation are not run"});
  if (a.name == "add_postconf_script")
    e.warn(a.place, "a script that is to run once all is configured is not followed: '" + text::clip(script, 80) + "'");
  return {};  // others put archives of sources together
}
Value add_devenv(Evaluator&, Self, Arguments&) { return {}; }

// ---- machines
Value system_of_machine(Evaluator&, Self self, Arguments&) { return as<Machine>(self).system; }
Value processor(Evaluator&, Self self, Arguments&) { return as<Machine>(self).processor; }
Value byte_order(Evaluator&, Self self, Arguments&) { return as<Machine>(self).byte_order; }

// ---- dependencies
Value dependency_found(Evaluator&, Self self, Arguments&) { return as<Dependency>(self).found; }
Value dependency_version(Evaluator&, Self self, Arguments&) {
  const auto& version = as<Dependency>(self).version;
  return version.empty() ? "unknown" : version;
}
Value dependency_name(Evaluator&, Self self, Arguments&) { return as<Dependency>(self).name; }
Value dependency_type(Evaluator&, Self self, Arguments&) {
  return as<Dependency>(self).found ? as<Dependency>(self).by : "not-found";
}
Value dependency_variable(Evaluator& e, Self self, Arguments& a) {
  const auto& dependency = as<Dependency>(self);
  const bool internal = std::string_view(dependency.by) == "internal";
  std::string name = internal ? e.text_or(a, "internal") : e.text_or(a, "pkgconfig");
  if (name.empty() && !a.positional.empty()) name = e.text(a, 0);
  if (const auto it = dependency.variables.find(name); it != dependency.variables.end()) return it->second;
  if (!internal) {
    std::map<std::string, std::string> defines;
    const auto words = e.texts(a, "pkgconfig_define");
    for (std::size_t i = 0; i + 1 < words.size(); i += 2) defines[words[i]] = words[i + 1];
    if (const auto value = variable_of_module(dependency.module_file, name, defines)) return *value;
  }
  const auto* fallback = a.find("default_value");
  if (fallback == nullptr) fallback = a.find("default");
  if (fallback != nullptr) return *fallback;
  if (a.name == "get_pkgconfig_variable") return "";
  e.fail(a, "the dependency '" + text::printable_line(dependency.name) + "' has no variable '" +
                text::printable_line(name) + "'");
}
// What of a dependency is meant.
struct PartsWanted {
  bool compile, includes, links, link_arguments, sources;
};
void keep_parts(Dependency& of, const PartsWanted& wanted) {
  // What comes from outside has flags for both in one.
  const bool outside = std::string_view(of.by) != "internal";
  if (!wanted.compile) {
    of.compile_arguments.clear();
    of.usage.compile_options.clear();
    of.usage.definitions.clear();
  }
  if (!wanted.includes && !(wanted.compile && outside)) {
    of.include.clear();
    of.usage.include_folders.clear();
  }
  if (!wanted.links) {
    of.link_with.clear();
    of.link_whole.clear();
  }
  if (!wanted.link_arguments && !(wanted.links && outside)) {
    of.link_arguments.clear();
    of.usage.link_folders.clear();
    of.usage.link_items.clear();
  }
  if (!wanted.sources) of.sources.clear();
}
Value partial_dependency(Evaluator& e, Self self, Arguments& a) {
  const PartsWanted wanted{e.truth_or(a, "compile_args", false), e.truth_or(a, "includes", false),
                           e.truth_or(a, "links", false), e.truth_or(a, "link_args", false),
                           e.truth_or(a, "sources", false)};
  return object(e.copied(as<Dependency>(self), a, [&](Dependency& one) { keep_parts(one, wanted); }));
}
Value as_system(Evaluator& e, Self self, Arguments& a) {
  // "preserve" leaves it as it is, and so does "non-system" what nobody has made another.
  const bool plain = !a.positional.empty() && a.positional[0].text() != nullptr && *a.positional[0].text() != "system";
  return plain ? Value(self) : object(e.copied(as<Dependency>(self), a, use_system_folders));
}
Value as_whole(Evaluator&, Self self, Arguments&) {
  auto out = std::make_shared<Dependency>(as<Dependency>(self));
  out->link_whole.insert(out->link_whole.end(), out->link_with.begin(), out->link_with.end());
  out->link_with.clear();
  return object(std::move(out));
}

// ---- programs
Value program_found(Evaluator&, Self self, Arguments&) { return as<Program>(self).found; }
Value program_path(Evaluator&, Self self, Arguments&) {
  const auto& program = as<Program>(self);
  return program.target ? program.target->result.file : program.command.empty() ? program.name : program.command.back();
}
Value program_version(Evaluator& e, Self self, Arguments&) {
  auto& program = as<Program>(self);
  if (program.version.empty() && !program.command.empty())
    program.version = e.locator.version_of_program(program.command.front());
  return program.version;
}

// ---- targets
std::string first_output(Self self) {
  if (const auto target = std::dynamic_pointer_cast<Target>(self)) return target->result.file;
  if (const auto custom = std::dynamic_pointer_cast<CustomTarget>(self)) return custom->outputs.front();
  if (const auto output = std::dynamic_pointer_cast<CustomOutput>(self)) return output->path;
  return {};
}
Value full_path(Evaluator&, Self self, Arguments&) { return first_output(self); }
Value target_name(Evaluator&, Self self, Arguments&) {
  if (const auto target = std::dynamic_pointer_cast<Target>(self)) return target->name;
  return as<CustomTarget>(self).name;
}
Value private_folder(Evaluator& e, Self self, Arguments&) {
  auto out = std::make_shared<IncludeFolders>();
  out->folders = {as<Target>(self).result_folder, e.work};
  return object(std::move(out));
}
Value extract_objects(Evaluator& e, Self self, Arguments& a) {
  auto out = std::make_shared<ExtractedObjects>();
  out->of = std::static_pointer_cast<Target>(self);
  out->all = a.name == "extract_all_objects";
  out->with_extracted = out->all && e.truth_or(a, "recursive", false);
  if (!out->all) {
    // Names count from where the target is declared.
    for (const auto& one : flattened(a.positional)) {
      if (const auto* text = one.text()) {
        out->sources.push_back(files::absolute(*text, out->of->folder));
        continue;
      }
      for (auto& path : e.paths_of({one}, a)) out->sources.push_back(std::move(path));
    }
  }
  return object(std::move(out));
}
Value shared_one(Evaluator&, Self self, Arguments&) { return Value(self); }
Value static_one(Evaluator&, Self self, Arguments&) {
  const auto& target = as<Target>(self);
  return target.other ? object(target.other) : Value(self);
}
Value custom_list(Evaluator&, Self self, Arguments&) {
  const auto custom = std::static_pointer_cast<CustomTarget>(self);
  Array out;
  for (const auto& path : custom->outputs) {
    auto one = std::make_shared<CustomOutput>();
    one->of = custom;
    one->path = path;
    out.push_back(object(std::move(one)));
  }
  return out;
}

// ---- configuration data
Value set_value(Evaluator& e, Self self, Arguments& a) {
  if (a.positional.size() != 2) e.fail(a, a.name + "() needs a name and a value");
  auto& data = as<ConfigurationData>(self);
  const std::string name = e.text(a, 0);
  Value value = a.positional[1];
  if (a.name == "set10") {
    const bool on = value.boolean() != nullptr ? *value.boolean() : value.number() != nullptr && *value.number() != 0;
    value = Value(std::int64_t{on ? 1 : 0});
  } else if (a.name == "set_quoted") {
    value = Value("\"" + text::replace_all(text::replace_all(shown(value), "\\", "\\\\"), "\"", "\\\"") + "\"");
  } else if (value.object() != nullptr || value.array() != nullptr) {
    e.fail(a, std::string(value.kind()) + " is no value of configuration data");
  }
  data.set(name, std::move(value));
  if (const std::string told = e.text_or(a, "description"); !told.empty()) data.descriptions[name] = told;
  return {};
}
const Value* value_in(const ConfigurationData& data, const std::string& name) {
  for (const auto& [key, value] : data.values) {
    if (key == name) return &value;
  }
  return nullptr;
}
Value get_value(Evaluator& e, Self self, Arguments& a) {
  const std::string name = e.text(a, 0);
  const auto* value = value_in(as<ConfigurationData>(self), name);
  if (value == nullptr) {
    if (a.positional.size() > 1) return a.positional[1];
    e.fail(a, "the configuration data has no '" + text::printable_line(name) + "'");
  }
  if (a.name == "get_unquoted" && value->text() != nullptr) {
    const std::string& text = *value->text();
    if (text.size() > 1 && text.front() == '"' && text.back() == '"') return text.substr(1, text.size() - 2);
  }
  return *value;
}
Value has_value(Evaluator& e, Self self, Arguments& a) {
  return value_in(as<ConfigurationData>(self), e.text(a, 0)) != nullptr;
}
Value names_of_values(Evaluator&, Self self, Arguments&) {
  std::vector<std::string> names;
  for (const auto& [key, value] : as<ConfigurationData>(self).values) names.push_back(key);
  std::sort(names.begin(), names.end());
  Array out;
  for (auto& name : names) out.emplace_back(std::move(name));
  return out;
}
Value merge(Evaluator& e, Self self, Arguments& a) {
  const auto other = a.positional.empty() ? nullptr : a.positional[0].as<ConfigurationData>();
  if (!other) e.fail(a, "merge_from() needs configuration data");
  for (const auto& [key, value] : other->values) as<ConfigurationData>(self).set(key, value);
  return {};
}

// ---- environments
Value change_environment(Evaluator& e, Self self, Arguments& a) {
  auto& environment = as<EnvironmentObject>(self);
  const std::string name = e.text(a, 0);
  if (a.name == "unset") {
    environment.values.erase(name);
    environment.unset.push_back(name);
    return {};
  }
  const std::string by = e.text_or(a, "separator", ":");
  std::string value =
      text::join(e.texts(flattened(std::vector<Value>(a.positional.begin() + 1, a.positional.end())), a), by);
  if (a.name != "set") {
    const auto it = environment.values.find(name);
    std::string held;
    if (it != environment.values.end())
      held = it->second;
    else if (const char* outside = std::getenv(name.c_str()); outside != nullptr)
      held = outside;
    if (!held.empty()) value = a.name == "append" ? held + by + value : value + by + held;
  }
  environment.values[name] = value;
  return {};
}

// ---- what a run came to
Value code(Evaluator&, Self self, Arguments&) { return static_cast<std::int64_t>(as<RunResult>(self).code); }
Value output(Evaluator&, Self self, Arguments&) { return as<RunResult>(self).output; }
Value errors(Evaluator&, Self self, Arguments&) { return as<RunResult>(self).errors; }
Value compiled(Evaluator&, Self self, Arguments&) { return as<RunResult>(self).compiled; }

// ---- features
Value feature_with(Self self, Feature::State state) {
  return object(std::make_shared<Feature>(state, as<Feature>(self).name));
}
Value feature_is(Evaluator&, Self self, Arguments& a) {
  const auto state = as<Feature>(self).state;
  if (a.name == "enabled") return state == Feature::State::enabled;
  if (a.name == "disabled") return state == Feature::State::disabled;
  if (a.name == "auto") return state == Feature::State::automatic;
  return state != Feature::State::disabled;  // allowed()
}
bool first_truth(Evaluator& e, const Arguments& a) {
  if (a.positional.empty() || a.positional[0].boolean() == nullptr) e.fail(a, a.name + "() needs true or false");
  return *a.positional[0].boolean();
}
Value feature_require(Evaluator& e, Self self, Arguments& a) {
  if (first_truth(e, a)) return Value(self);
  if (as<Feature>(self).state == Feature::State::enabled)
    e.fail(a, "the feature '" + as<Feature>(self).name + "' cannot be had: " +
                  text::printable_line(e.text_or(a, "error_message", "what it needs is not there")));
  return feature_with(self, Feature::State::disabled);
}
Value feature_switch(Evaluator& e, Self self, Arguments& a) {
  const bool holds = first_truth(e, a);
  const auto state = as<Feature>(self).state;
  if (!holds) return Value(self);
  if (a.name == "disable_auto_if")
    return state == Feature::State::automatic ? feature_with(self, Feature::State::disabled) : Value(self);
  if (a.name == "enable_auto_if")
    return state == Feature::State::automatic ? feature_with(self, Feature::State::enabled) : Value(self);
  if (a.name == "enable_if") {
    if (state == Feature::State::disabled)
      e.fail(a, "the feature '" + as<Feature>(self).name + "' is disabled, and " +
                    text::printable_line(e.text_or(a, "error_message", "needed")));
    return feature_with(self, Feature::State::enabled);
  }
  if (state == Feature::State::enabled)
    e.fail(a, "the feature '" + as<Feature>(self).name + "' is enabled, and " +
                  text::printable_line(e.text_or(a, "error_message", "cannot be had")));
  return feature_with(self, Feature::State::disabled);
}

// ---- subprojects and modules
Value subproject_found(Evaluator&, Self self, Arguments&) { return as<SubprojectObject>(self).scope != nullptr; }
Value subproject_variable(Evaluator& e, Self self, Arguments& a) {
  const auto& scope = as<SubprojectObject>(self).scope;
  const std::string name = e.text(a, 0);
  if (scope) {
    if (const auto it = scope->variables.find(name); it != scope->variables.end()) return it->second;
  }
  if (a.positional.size() > 1) return a.positional[1];
  e.fail(a, "the subproject has no '" + text::printable_line(name) + "'");
}
Value module_found(Evaluator&, Self self, Arguments&) { return as<Module>(self).found; }
Value file_path(Evaluator&, Self self, Arguments&) { return as<File>(self).path; }
Value chosen_sources(Evaluator&, Self self, Arguments&) { return as<SourceChoice>(self).sources; }
Value chosen_dependencies(Evaluator&, Self self, Arguments&) { return as<SourceChoice>(self).dependencies; }

const MethodTable& surroundings_methods() {
  static const MethodTable table = {{"get_compiler", compiler_object},
                                    {"source_root", root_of_sources},
                                    {"global_source_root", root_of_sources},
                                    {"build_root", root_of_results},
                                    {"global_build_root", root_of_results},
                                    {"project_source_root", project_sources},
                                    {"project_build_root", project_results},
                                    {"current_source_dir", current_sources},
                                    {"current_build_dir", current_results},
                                    {"project_name", project_name},
                                    {"project_version", project_version},
                                    {"project_license", project_license},
                                    {"version", language_version},
                                    {"is_subproject", is_subproject},
                                    {"is_cross_build", is_foreign},
                                    {"can_run_host_binaries", can_run},
                                    {"has_exe_wrapper", can_run},
                                    {"is_unity", is_unity},
                                    {"backend", backend},
                                    {"get_external_property", external_property},
                                    {"get_cross_property", external_property},
                                    {"has_external_property", has_external_property},
                                    {"override_find_program", override_program},
                                    {"override_dependency", override_dependency},
                                    {"add_install_script", add_script},
                                    {"add_postconf_script", add_script},
                                    {"add_dist_script", add_script},
                                    {"add_devenv", add_devenv}};
  return table;
}
const MethodTable& dependency_methods() {
  static const MethodTable table = {{"found", dependency_found},
                                    {"version", dependency_version},
                                    {"name", dependency_name},
                                    {"type_name", dependency_type},
                                    {"get_variable", dependency_variable},
                                    {"get_pkgconfig_variable", dependency_variable},
                                    {"partial_dependency", partial_dependency},
                                    {"as_system", as_system},
                                    {"as_link_whole", as_whole}};
  return table;
}
const MethodTable& feature_methods() {
  static const MethodTable table = {{"enabled", feature_is},
                                    {"disabled", feature_is},
                                    {"auto", feature_is},
                                    {"allowed", feature_is},
                                    {"require", feature_require},
                                    {"disable_auto_if", feature_switch},
                                    {"enable_auto_if", feature_switch},
                                    {"enable_if", feature_switch},
                                    {"disable_if", feature_switch}};
  return table;
}

const MethodTable& methods_of(const Object& of) {
  static const MethodTable none;
  static const MethodTable machine = {
      {"system", system_of_machine}, {"cpu_family", processor},     {"cpu", processor},
      {"endian", byte_order},        {"kernel", system_of_machine}, {"subsystem", system_of_machine}};
  static const MethodTable program = {
      {"found", program_found}, {"path", program_path}, {"full_path", program_path}, {"version", program_version}};
  static const MethodTable target = {{"full_path", full_path},
                                     {"path", full_path},
                                     {"name", target_name},
                                     {"private_dir_include", private_folder},
                                     {"extract_objects", extract_objects},
                                     {"extract_all_objects", extract_objects},
                                     {"get_shared_lib", shared_one},
                                     {"get_static_lib", static_one},
                                     {"found", yes}};
  static const MethodTable custom = {{"full_path", full_path}, {"to_list", custom_list}, {"name", target_name}};
  static const MethodTable made = {{"full_path", full_path}};
  static const MethodTable data = {{"set", set_value},        {"set10", set_value},        {"set_quoted", set_value},
                                   {"get", get_value},        {"get_unquoted", get_value}, {"has", has_value},
                                   {"keys", names_of_values}, {"merge_from", merge}};
  static const MethodTable environment = {{"set", change_environment},
                                          {"append", change_environment},
                                          {"prepend", change_environment},
                                          {"unset", change_environment}};
  static const MethodTable result = {
      {"returncode", code}, {"stdout", output}, {"stderr", errors}, {"compiled", compiled}};
  static const MethodTable generator = {{"process", process_with}};
  static const MethodTable subproject = {{"found", subproject_found}, {"get_variable", subproject_variable}};
  static const MethodTable file = {{"full_path", file_path}};
  static const MethodTable choice = {{"sources", chosen_sources}, {"dependencies", chosen_dependencies}};
  if (dynamic_cast<const Surroundings*>(&of) != nullptr) return surroundings_methods();
  if (dynamic_cast<const Machine*>(&of) != nullptr) return machine;
  if (dynamic_cast<const CompilerObject*>(&of) != nullptr) return compiler_methods();
  if (dynamic_cast<const Dependency*>(&of) != nullptr) return dependency_methods();
  if (dynamic_cast<const Program*>(&of) != nullptr) return program;
  if (dynamic_cast<const Target*>(&of) != nullptr) return target;
  if (dynamic_cast<const CustomTarget*>(&of) != nullptr) return custom;
  if (dynamic_cast<const CustomOutput*>(&of) != nullptr) return made;
  if (dynamic_cast<const ConfigurationData*>(&of) != nullptr) return data;
  if (dynamic_cast<const EnvironmentObject*>(&of) != nullptr) return environment;
  if (dynamic_cast<const RunResult*>(&of) != nullptr) return result;
  if (dynamic_cast<const Generator*>(&of) != nullptr) return generator;
  if (dynamic_cast<const Feature*>(&of) != nullptr) return feature_methods();
  if (dynamic_cast<const SubprojectObject*>(&of) != nullptr) return subproject;
  if (dynamic_cast<const SourceSet*>(&of) != nullptr) return source_set_methods();
  if (dynamic_cast<const SourceChoice*>(&of) != nullptr) return choice;
  if (dynamic_cast<const File*>(&of) != nullptr) return file;
  return none;
}

}  // namespace

Evaluator::Method method_of(const Object& of, const std::string& name) {
  if (const auto* module = dynamic_cast<const Module*>(&of)) {
    if (name == "found") return module_found;
    const auto& table = module_methods(module->name);
    const auto it = table.find(name);
    return it == table.end() ? nullptr : it->second;
  }
  if (dynamic_cast<const PythonProgram*>(&of) != nullptr) {
    if (const auto it = python_methods().find(name); it != python_methods().end()) return it->second;
  }
  const auto& table = methods_of(of);
  const auto it = table.find(name);
  return it == table.end() ? nullptr : it->second;
}

}  // namespace coctilis::describe::meson_build
