// Programs, libraries, dependencies that the tree declares, and tests.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

namespace {

using model::TargetKind;

const std::set<std::string>& names_of_targets() {
  static const std::set<std::string> names = {"sources",
                                              "c_args",
                                              "cpp_args",
                                              "fortran_args",
                                              "c_pch",
                                              "cpp_pch",
                                              "link_args",
                                              "link_with",
                                              "link_whole",
                                              "link_depends",
                                              "link_language",
                                              "dependencies",
                                              "include_directories",
                                              "implicit_include_directories",
                                              "objects",
                                              "extra_files",
                                              "install",
                                              "install_dir",
                                              "install_mode",
                                              "install_rpath",
                                              "install_tag",
                                              "build_rpath",
                                              "build_by_default",
                                              "name_prefix",
                                              "name_suffix",
                                              "version",
                                              "soversion",
                                              "pic",
                                              "pie",
                                              "gnu_symbol_visibility",
                                              "override_options",
                                              "export_dynamic",
                                              "implib",
                                              "native",
                                              "d_import_dirs",
                                              "d_unittest",
                                              "d_debug",
                                              "gui_app",
                                              "win_subsystem",
                                              "vs_module_defs",
                                              "darwin_versions",
                                              "pkgconfig",
                                              "rust_args",
                                              "objc_args",
                                              "objcpp_args",
                                              "cs_args",
                                              "vala_args",
                                              "asm_args",
                                              "cython_args",
                                              "nasm_args",
                                              "c_static_args",
                                              "c_shared_args",
                                              "cpp_static_args",
                                              "cpp_shared_args",
                                              "rust_crate_type",
                                              "subdir",
                                              "target_type",
                                              "install_vala_targets"};
  return names;
}

// Its languages' sources that nobody here compiles are an error where they stand.
void check_source(Evaluator& e, const Arguments& a, const std::string& path) {
  for (const char* ending : {".vala", ".vapi", ".rs", ".d", ".swift", ".pyx", ".m", ".mm", ".cs", ".java", ".cu"}) {
    if (!path.ends_with(ending)) continue;
    if (std::string_view(ending) == ".vapi") return;
    e.unknown(a, "the source '" + text::printable_line(e.shown_path(path)) +
                     "' is in a language that is not followed in this description");
  }
}

// What is made of one another goes no deeper than this: more is written by nobody, and is worked out level by level.
constexpr int deepest_targets = 500;

int deeper(Evaluator& e, const Arguments& a, int depth) {
  if (depth >= deepest_targets)
    e.fail(a, "more than " + std::to_string(deepest_targets) + " targets or dependencies lead into each other");
  return depth + 1;
}
// How deep goes what stands in lists of targets, objects and dependencies.
int depth_of(const std::vector<Value>& values, const std::vector<std::shared_ptr<Dependency>>& needs) {
  int out = 0;
  for (const auto& one : needs) out = std::max(out, one->depth);
  for (const auto& value : values) {
    if (const auto target = value.as<Target>()) out = std::max(out, target->depth);
    if (const auto objects = value.as<ExtractedObjects>()) out = std::max(out, objects->of->depth);
  }
  return out;
}

std::vector<std::shared_ptr<Dependency>> dependencies_of(Evaluator& e, const Arguments& a) {
  std::vector<std::shared_ptr<Dependency>> out;
  for (const auto& one : e.list(a, "dependencies")) {
    if (const auto dependency = one.as<Dependency>()) {
      out.push_back(dependency);
    } else if (!one.as<Disabler>()) {
      e.fail(a, std::string(one.kind()) + " is no dependency");
    }
  }
  return out;
}

std::vector<std::shared_ptr<IncludeFolders>> folders_of(Evaluator& e, const Arguments& a) {
  std::vector<std::shared_ptr<IncludeFolders>> out;
  for (const auto& one : e.list(a, "include_directories")) {
    if (const auto folders = one.as<IncludeFolders>()) {
      out.push_back(folders);
    } else if (one.text() != nullptr) {
      auto made = std::make_shared<IncludeFolders>();
      const std::string path = e.source_path(*one.text());
      if (files::is_below(path, e.tree)) made->folders.push_back(e.result_folder_of(path));
      made->folders.push_back(path);
      out.push_back(std::move(made));
    }
  }
  return out;
}

// Where what it makes lies, and by which names.
void name_result(Evaluator& e, Target& target, const Arguments& a) {
  std::string prefix = target.what == TargetKind::program ? "" : "lib";
  if (const auto* given = a.find("name_prefix"); given != nullptr && given->text() != nullptr) prefix = *given->text();
  std::string suffix = target.what == TargetKind::program ? "" : target.what == TargetKind::static_library ? "a" : "so";
  if (const auto* given = a.find("name_suffix"); given != nullptr && given->text() != nullptr) suffix = *given->text();
  if (target.name.empty() || target.name.find('/') != std::string::npos || suffix.find('/') != std::string::npos ||
      prefix.find('/') != std::string::npos || target.name == "." || target.name == "..")
    e.fail(a, "'" + text::clip(text::printable_line(target.name), 60) + "' cannot be the name of a target");
  const std::string file = target.result_folder + "/" + prefix + target.name + (suffix.empty() ? "" : "." + suffix);
  auto& result = target.result;
  result.file = result.linker_file = file;
  if (target.what != TargetKind::shared_library || a.find("name_suffix") != nullptr) {
    if (target.what == TargetKind::shared_library) result.shared_name = file.substr(file.rfind('/') + 1);
    return;
  }
  const auto part = [&](const char* key) {
    const auto* given = a.find(key);
    if (given == nullptr) return std::string();
    const std::string text = given->number() != nullptr ? std::to_string(*given->number()) : e.text_or(a, key);
    if (text.find('/') != std::string::npos)
      e.fail(a, "'" + text::printable_line(text) + "' is no version of a library");
    return text;
  };
  const std::string version = part("version");
  std::string shared_version = part("soversion");
  if (shared_version.empty() && !version.empty()) shared_version = version.substr(0, version.find('.'));
  const std::string plain = file.substr(file.rfind('/') + 1);
  result.shared_name = plain + (shared_version.empty() ? "" : "." + shared_version);
  if (!version.empty())
    result.file = file + "." + version;
  else if (!shared_version.empty())
    result.file = file + "." + shared_version;
  const std::string by_name = target.result_folder + "/" + result.shared_name;
  if (by_name != result.file && by_name != file) result.names.push_back(by_name);
  if (file != result.file) result.names.push_back(file);
}

void add_install(Evaluator& e, const Target& target, const Arguments& a) {
  const auto folders = e.list(a, "install_dir");
  if (!folders.empty() && folders.front().boolean() != nullptr) return;  // "install_dir : false"
  const std::string folder = target.installed_in;
  const auto name_of = [](const std::string& path) { return path.substr(path.rfind('/') + 1); };
  model::InstallItem item;
  item.from = target.result.file;
  item.to = folder + "/" + name_of(target.result.file);
  item.mode = target.install_mode != 0 ? target.install_mode : target.what == TargetKind::static_library ? 0644 : 0755;
  item.target = target.unit;
  item.relink = target.what != TargetKind::static_library;
  item.run_path = target.run_path;
  item.place = a.place;
  e.build.install.push_back(item);
  for (const auto& link : target.result.names) {
    model::InstallItem other;
    other.kind = model::InstallItem::Kind::link;
    // Each leads to the next.
    other.from = name_of(link) == target.result.shared_name || target.result.shared_name.empty()
                     ? name_of(target.result.file)
                     : target.result.shared_name;
    if (other.from == name_of(link)) other.from = name_of(target.result.file);
    other.to = folder + "/" + name_of(link);
    other.place = a.place;
    e.build.install.push_back(std::move(other));
  }
  e.build.installed[target.unit] = folder;
}

// Options that count for this target alone.
struct Override {
  Override(Evaluator& of, const Arguments& a) : e(of), before(of.scope().built_in) {
    const auto* given = a.find("override_options");
    if (given == nullptr) return;
    std::vector<std::string> words;
    if (const auto* dictionary = given->dictionary()) {
      for (const auto& [key, value] : *dictionary) words.push_back(key + "=" + shown(value));
    } else {
      words = e.texts(a, "override_options");
    }
    for (const auto& word : words) {
      const auto equals = word.find('=');
      if (equals != std::string::npos) e.scope().built_in[word.substr(0, equals)] = word.substr(equals + 1);
    }
  }
  ~Override() { e.scope().built_in = before; }
  Override(const Override&) = delete;
  Override& operator=(const Override&) = delete;
  Evaluator& e;
  std::map<std::string, std::string> before;
};

std::shared_ptr<Target> make_target(Evaluator& e, const Arguments& a, TargetKind kind) {
  e.check_names(a, names_of_targets());
  const Override overridden(e, a);
  auto target = std::make_shared<Target>();
  target->what = kind;
  target->name = e.text(a, 0);
  target->folder = e.source_folder();
  target->result_folder = e.result_folder();
  target->place = a.place;
  target->unit = e.unit_name(target->name);
  target->sources = flattened(std::vector<Value>(a.positional.begin() + 1, a.positional.end()));
  for (auto& one : e.list(a, "sources")) target->sources.push_back(std::move(one));
  for (auto& source : target->sources) {
    if (const auto* text = source.text()) {
      const std::string path = e.source_path(*text);
      if (!files::is_file(path))
        e.fail(a, "the source '" + text::printable_line(e.shown_path(path)) + "' is not there",
               "check the path, or bring in what is missing of the tree");
      source = object(std::make_shared<File>(path));
    }
    if (const auto file = source.as<File>()) check_source(e, a, file->path);
    if (const auto custom = source.as<CustomTarget>()) {
      for (const auto& path : custom->outputs) check_source(e, a, path);
    }
  }
  target->objects = e.list(a, "objects");
  target->include = folders_of(e, a);
  target->implicit_include = e.truth_or(a, "implicit_include_directories", true);
  const std::pair<const char*, const char*> languages[] = {{"C", "c"}, {"C++", "cpp"}, {"Fortran", "fortran"}};
  for (const auto& [language, word] : languages) {
    target->arguments[language] = e.texts(a, std::string(word) + "_args");
    const char* form = kind == TargetKind::static_library ? "_static_args" : "_shared_args";
    for (const auto& one : e.texts(a, std::string(word) + form)) target->arguments[language].push_back(one);
    for (const auto& one : text::words(e.built_in(std::string(word) + "_args")))
      target->project_arguments[language].push_back(one);
    for (const auto* list : {&e.global_arguments, &e.scope().arguments}) {
      if (const auto it = list->find(language); it != list->end())
        target->project_arguments[language].insert(target->project_arguments[language].end(), it->second.begin(),
                                                   it->second.end());
    }
    for (const auto* list : {&e.global_link_arguments, &e.scope().link_arguments}) {
      if (const auto it = list->find(language); it != list->end())
        target->project_link_arguments[language].insert(target->project_link_arguments[language].end(),
                                                        it->second.begin(), it->second.end());
    }
    for (const auto& one : text::words(e.built_in(std::string(word) + "_link_args")))
      target->project_link_arguments[language].push_back(one);
  }
  target->standards[0] = e.standard_of("C");
  target->standards[1] = e.standard_of("C++");
  target->standards[2] = e.standard_of("Fortran");
  target->link_arguments = e.texts(a, "link_args");
  target->link_depends = e.paths_of(e.list(a, "link_depends"), a);
  target->link_with = e.list(a, "link_with");
  target->link_whole = e.list(a, "link_whole");
  target->needs = dependencies_of(e, a);
  auto inner = target->link_with;
  inner.insert(inner.end(), target->link_whole.begin(), target->link_whole.end());
  inner.insert(inner.end(), target->objects.begin(), target->objects.end());
  target->depth = deeper(e, a, depth_of(inner, target->needs));
  target->visibility = e.text_or(a, "gnu_symbol_visibility");
  target->start_with_language = e.text_or(a, "link_language");
  target->independent =
      kind == TargetKind::shared_library || kind == TargetKind::module_library ||
      (kind == TargetKind::static_library && e.truth_or(a, "pic", e.built_in("b_staticpic") == "true"));
  target->program_independent = kind == TargetKind::program && e.truth_or(a, "pie", e.built_in("b_pie") == "true");
  target->exports_symbols = kind == TargetKind::program && e.truth_or(a, "export_dynamic", false);
  if (const auto* implib = a.find("implib");
      implib != nullptr && (implib->text() != nullptr || (implib->boolean() != nullptr && *implib->boolean())))
    target->exports_symbols = kind == TargetKind::program;
  target->by_default = e.truth_or(a, "build_by_default", true);
  target->installed = e.truth_or(a, "install", false);
  target->warnings_are_errors = e.built_in("werror") == "true";
  const std::string level = e.built_in("warning_level");
  target->warning_level = level == "everything"                                     ? 3
                          : level.size() == 1 && level[0] >= '0' && level[0] <= '3' ? level[0] - '0'
                                                                                    : 1;
  target->first_options = e.variant_options();
  if (e.built_in("b_lto") == "true") {
    target->first_options.emplace_back("-flto");
    target->first_link_options.emplace_back("-flto");
  }
  if (e.built_in("b_asneeded") == "true") target->first_link_options.emplace_back("-Wl,--as-needed");
  if (kind == TargetKind::shared_library && e.built_in("b_lundef") == "true" && e.built_in("b_sanitize") == "none")
    target->first_link_options.emplace_back("-Wl,--no-undefined");
  for (const char* key : {"c_pch", "cpp_pch"}) {
    for (const auto& header : e.texts(a, key)) {
      const std::string path = e.source_path(header);
      if (files::is_file(path) && (path.ends_with(".h") || path.ends_with(".hpp") || path.ends_with(".hh")))
        target->first_headers.push_back(path);
    }
  }
  name_result(e, *target, a);
  target->install_mode = e.mode_of(a);
  target->installed_in = e.install_folder(a, "install_dir", kind == TargetKind::program ? "bindir" : "libdir");
  if (const std::string path = e.text_or(a, "install_rpath"); !path.empty()) target->run_path = text::split(path, ':');
  if (const std::string path = e.text_or(a, "build_rpath"); !path.empty())
    target->build_run_path = text::split(path, ':');
  if (target->installed) add_install(e, *target, a);
  e.targets.push_back(target);
  return target;
}

Value executable(Evaluator& e, Arguments& a) { return object(make_target(e, a, TargetKind::program)); }
Value static_library(Evaluator& e, Arguments& a) { return object(make_target(e, a, TargetKind::static_library)); }
Value shared_library(Evaluator& e, Arguments& a) { return object(make_target(e, a, TargetKind::shared_library)); }
Value shared_module(Evaluator& e, Arguments& a) { return object(make_target(e, a, TargetKind::module_library)); }

Value both_libraries(Evaluator& e, Arguments& a) {
  auto shared = make_target(e, a, TargetKind::shared_library);
  auto archive = make_target(e, a, TargetKind::static_library);
  shared->other = archive;
  return object(std::move(shared));
}

Value library(Evaluator& e, Arguments& a) {
  const std::string kind = e.built_in("default_library");
  if (kind == "static") return static_library(e, a);
  if (kind == "both") return both_libraries(e, a);
  return shared_library(e, a);
}

Value build_target(Evaluator& e, Arguments& a) {
  const std::string kind = e.text_or(a, "target_type");
  if (kind == "executable") return executable(e, a);
  if (kind == "library") return library(e, a);
  if (kind == "static_library") return static_library(e, a);
  if (kind == "shared_library") return shared_library(e, a);
  if (kind == "shared_module") return shared_module(e, a);
  if (kind == "both_libraries") return both_libraries(e, a);
  e.unknown(a, "targets of the type '" + text::clip(text::printable_line(kind), 40) + "' are not known here");
}

Value declare_dependency(Evaluator& e, Arguments& a) {
  e.check_names(a, {"include_directories", "link_with", "link_whole", "link_args", "compile_args", "dependencies",
                    "sources", "version", "variables", "extra_files", "d_module_versions", "d_import_dirs", "objects"});
  auto out = std::make_shared<Dependency>();
  out->found = true;
  out->by = "internal";
  out->version = e.text_or(a, "version", e.scope().version);
  out->include = folders_of(e, a);
  out->compile_arguments = e.texts(a, "compile_args");
  out->link_arguments = e.texts(a, "link_args");
  out->link_with = e.list(a, "link_with");
  out->link_whole = e.list(a, "link_whole");
  out->sources = e.list(a, "sources");
  for (auto& source : out->sources) {
    if (const auto* text = source.text()) source = object(std::make_shared<File>(e.source_path(*text)));
  }
  out->needs = dependencies_of(e, a);
  auto inner = out->link_with;
  inner.insert(inner.end(), out->link_whole.begin(), out->link_whole.end());
  out->depth = deeper(e, a, depth_of(inner, out->needs));
  if (const auto* given = a.find("variables")) {
    if (const auto* dictionary = given->dictionary()) {
      for (const auto& [key, value] : *dictionary) out->variables[key] = shown(value);
    } else {
      for (const auto& word : e.texts(a, "variables")) {
        const auto equals = word.find('=');
        if (equals != std::string::npos)
          out->variables[std::string(text::trim(word.substr(0, equals)))] =
              std::string(text::trim(word.substr(equals + 1)));
      }
    }
  }
  return object(std::move(out));
}

// ---- tests
Value test(Evaluator& e, Arguments& a) {
  e.check_names(a, {"args", "env", "is_parallel", "should_fail", "suite", "timeout", "workdir", "protocol", "depends",
                    "priority", "verbose"});
  model::TestCase out;
  out.name = e.text(a, 0);
  const auto suites = e.texts(a, "suite");
  if (a.positional.size() < 2) e.fail(a, "test() needs a program");
  const Value& program = a.positional[1];
  std::vector<std::string> inputs;
  if (const auto target = program.as<Target>()) {
    out.command = {target->result.file};
    out.program = target->unit;
    inputs.push_back(target->result.file);
  } else {
    out.command = e.command_words({program}, a, inputs);
  }
  if (out.command.empty()) e.fail(a, "test() needs a program that is there");
  for (const auto& one : e.list(a, "args")) {
    if (const auto* text = one.text()) {
      out.command.push_back(*text);
      continue;
    }
    for (const auto& path : e.paths_of({one}, a)) {
      out.command.push_back(path);
      inputs.push_back(path);
    }
  }
  for (const auto& [name, value] : e.environment_of(a.find("env"), a)) out.environment[name] = value;
  out.environment.try_emplace("MESON_SOURCE_ROOT", e.tree);
  out.environment.try_emplace("MESON_BUILD_ROOT", e.work);
  if (const auto held = a.find("env") != nullptr ? a.find("env")->as<EnvironmentObject>() : nullptr) {
    for (const auto& name : held->unset) out.environment[name] = std::nullopt;
  }
  out.folder = e.text_or(a, "workdir", e.work);
  const auto seconds = e.number_or(a, "timeout", 30);
  // Ten times as long as on the machine that it was measured on; 0 and less mean no limit.
  out.limit_seconds = seconds <= 0 ? 3600 : static_cast<double>(std::min<std::int64_t>(seconds * 10, 24 * 3600));
  out.will_fail = e.truth_or(a, "should_fail", false);
  out.alone = !e.truth_or(a, "is_parallel", true);
  out.cost = static_cast<double>(e.number_or(a, "priority", 0));
  const std::string protocol = e.text_or(a, "protocol", "exitcode");
  out.test_lines = protocol == "tap";
  if (protocol == "exitcode") {
    out.skip_code = 77;
    out.error_code = 99;
  }
  for (const auto& path : e.paths_of(e.list(a, "depends"), a)) inputs.push_back(path);
  out.needs_files = inputs;
  out.place = a.place;
  // Names need not differ, and ours do.
  std::string name = out.name;
  for (int n = 2;
       std::any_of(e.build.tests.begin(), e.build.tests.end(), [&](const auto& one) { return one.name == name; }); ++n)
    name =
        out.name + (n == 2 && !suites.empty() && !suites[0].empty() ? " (" + suites[0] + ")" : "-" + std::to_string(n));
  out.name = name;
  e.build.tests.push_back(std::move(out));
  return {};
}

// It measures, and says nothing about whether what is measured is right.
Value benchmark(Evaluator& e, Arguments& a) {
  e.project.left_out.push_back({"benchmark", e.text(a, 0), a.place, "what measures is no test"});
  return {};
}

Value jar(Evaluator& e, Arguments& a) { e.unknown(a, "archives of Java are not followed in this description"); }

}  // namespace

void add_target_functions(FunctionTable& table) {
  table["executable"] = executable;
  table["static_library"] = static_library;
  table["shared_library"] = shared_library;
  table["shared_module"] = shared_module;
  table["both_libraries"] = both_libraries;
  table["library"] = library;
  table["build_target"] = build_target;
  table["declare_dependency"] = declare_dependency;
  table["test"] = test;
  table["benchmark"] = benchmark;
  table["jar"] = jar;
}

}  // namespace coctilis::describe::meson_build
