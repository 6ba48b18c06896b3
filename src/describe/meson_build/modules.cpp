// Modules that a description can import: what each of their methods comes to.
#include <algorithm>
#include <cstdlib>
#include <functional>

#include "base/files.h"
#include "base/lists.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/code_generators.h"
#include "describe/meson_build/evaluator.h"
#include "describe/meson_build/module_tables.h"
#include "describe/toolkit.h"

namespace coctilis::describe::meson_build {

namespace {

// ---- fs: files and paths
std::string path_argument(Evaluator& e, const Arguments& a, std::size_t index = 0) {
  return e.source_path(e.text(a, index));
}

Value fs_exists(Evaluator& e, Self, Arguments& a) { return files::exists(path_argument(e, a)); }
Value fs_is_file(Evaluator& e, Self, Arguments& a) { return files::is_file(path_argument(e, a)); }
Value fs_is_dir(Evaluator& e, Self, Arguments& a) { return files::is_folder(path_argument(e, a)); }
Value fs_is_link(Evaluator& e, Self, Arguments& a) { return files::is_link(path_argument(e, a)); }
Value fs_is_absolute(Evaluator& e, Self, Arguments& a) { return e.text(a, 0).starts_with('/'); }
Value fs_is_same(Evaluator& e, Self, Arguments& a) {
  std::error_code error;
  for (const std::size_t which : {0U, 1U}) observe::presence(path_argument(e, a, which));
  return std::filesystem::equivalent(path_argument(e, a), path_argument(e, a, 1), error);
}
Value fs_name(Evaluator& e, Self, Arguments& a) { return base_name(e.text(a, 0)); }
Value fs_parent(Evaluator& e, Self, Arguments& a) {
  const std::string parent = std::filesystem::path(e.text(a, 0)).parent_path().string();
  return parent.empty() ? "." : parent;
}
Value fs_stem(Evaluator& e, Self, Arguments& a) { return std::filesystem::path(e.text(a, 0)).stem().string(); }
Value fs_suffix(Evaluator& e, Self, Arguments& a) { return std::filesystem::path(e.text(a, 0)).extension().string(); }
Value fs_replace_suffix(Evaluator& e, Self, Arguments& a) {
  return std::filesystem::path(e.text(a, 0)).replace_extension(e.text(a, 1)).string();
}
Value fs_as_posix(Evaluator& e, Self, Arguments& a) { return text::replace_all(e.text(a, 0), "\\", "/"); }
Value fs_expand_user(Evaluator& e, Self, Arguments& a) {
  const std::string path = e.text(a, 0);
  const char* home = std::getenv("HOME");
  return path.starts_with("~/") && home != nullptr ? home + path.substr(1) : path;
}
Value fs_read(Evaluator& e, Self, Arguments& a) {
  const std::string path = path_argument(e, a);
  const auto content = files::read(path);
  if (!content) e.fail(a, "the file '" + text::printable_line(e.shown_path(path)) + "' " + files::why_not_read(path));
  e.project.read_files.push_back(path);
  return *content;
}
Value fs_size(Evaluator& e, Self, Arguments& a) {
  std::error_code error;
  observe::content(path_argument(e, a));
  const auto size = std::filesystem::file_size(path_argument(e, a), error);
  if (error) e.fail(a, "the file '" + text::printable_line(e.text(a, 0)) + "' is not there");
  return static_cast<std::int64_t>(size);
}
Value fs_relative(Evaluator& e, Self, Arguments& a) {
  return files::relative(path_argument(e, a), path_argument(e, a, 1));
}
Value fs_copyfile(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"install", "install_dir", "install_mode", "install_tag"});
  const auto inputs = a.positional.empty() ? std::vector<std::string>{} : e.paths_of({a.positional[0]}, a);
  if (inputs.empty()) e.fail(a, "copyfile() needs a file");
  const std::string name = a.positional.size() > 1 ? e.text(a, 1) : base_name(inputs[0]);
  const std::string output = e.result_path(name, a);
  e.add_rule({output}, {"cp", inputs[0], output}, inputs, a);
  if (e.truth_or(a, "install", false))
    e.install_file(output, e.install_folder(a, "install_dir", "datadir") + "/" + base_name(output), 0, a);
  return object(e.add_custom(name, {output}, true, a));
}

// ---- pkgconfig: what users of a library are told of it
std::string quoted_word(const std::string& word) {
  std::string out;
  for (const char c : word) out += c == ' ' ? "\\ " : std::string(1, c);
  return out;
}

struct Described {
  std::vector<std::string> requires_, private_requires, libraries, private_libraries, flags;
  std::set<const void*> seen;
};

// By which others ask for it, where it has a .pc file.
std::string module_name(const Dependency& of) {
  const std::string file = base_name(of.module_file);
  return file.empty() ? "" : file.substr(0, file.size() - 3);
}

void describe_dependency(const Dependency& one, Described& out, bool is_private);

void describe_library(Evaluator& e, const Value& value, Described& out, bool is_private) {
  auto& libraries = is_private ? out.private_libraries : out.libraries;
  const auto add = [&](const std::string& word) { lists::append_once(libraries, word); };
  if (const auto* text = value.text()) {
    add(*text);
  } else if (const auto target = value.as<Target>()) {
    if (!out.seen.insert(target.get()).second) return;
    std::string name = base_name(target->result.linker_file);
    if (target->what == model::TargetKind::static_library && !target->installed) return;  // it is part of what uses it
    add("-L${libdir}");
    if (name.starts_with("lib") && (name.ends_with(".so") || name.ends_with(".a")))
      add("-l" + name.substr(3, name.rfind('.') - 3));
    else
      add("-l:" + name);
    for (const auto& need : target->needs) describe_dependency(*need, out, true);
    if (target->what != model::TargetKind::static_library) return;
    for (const auto& other : target->link_with) describe_library(e, other, out, true);
  } else if (const auto dependency = value.as<Dependency>()) {
    describe_dependency(*dependency, out, is_private);
  } else if (const auto custom = value.as<CustomTarget>()) {
    add("-L${libdir}");
    add("-l:" + base_name(custom->outputs.front()));
  }
}

void describe_dependency(const Dependency& one, Described& out, bool is_private) {
  if (!one.found || !out.seen.insert(&one).second) return;
  if (const std::string module = module_name(one); !module.empty()) {
    if (!lists::contains(out.requires_, module))
      lists::append_once(is_private ? out.private_requires : out.requires_, module);
    return;
  }
  auto& to = is_private ? out.private_libraries : out.libraries;
  for (const auto& word : one.usage.link_items) to.push_back(word);
  for (const auto& word : one.link_arguments) to.push_back(word);
  for (const auto& need : one.needs) describe_dependency(*need, out, is_private);
}

std::vector<std::string> requirements(Evaluator& e, const Arguments& a, const std::string& key, Described& out,
                                      bool is_private) {
  std::vector<std::string> words;
  for (const auto& value : e.list(a, key)) {
    if (value.text() != nullptr) {
      words.push_back(*value.text());
    } else if (const auto dependency = value.as<Dependency>()) {
      if (const std::string module = module_name(*dependency); dependency->found && !module.empty())
        words.push_back(module);
      else
        describe_dependency(*dependency, out, is_private);
    } else if (const auto target = value.as<Target>()) {
      words.push_back(target->name);
    }
  }
  return words;
}

// The same for those that use the results where they lie.
void write_for_results(Evaluator& e, const Arguments& a, const std::string& file, const Target* library,
                       const std::string& installed) {
  std::string text = "prefix=" + e.work + "\nsrcdir=" + e.source_folder() + "\n";
  const auto* given = a.find("uninstalled_variables");
  if (given != nullptr && given->dictionary() != nullptr) {
    for (const auto& [variable, value] : *given->dictionary()) text += variable + "=" + shown(value) + "\n";
  } else {
    for (const auto& word : e.texts(a, "uninstalled_variables")) text += word + "\n";
  }
  for (const auto& line : text::split(installed.substr(std::min(installed.size(), installed.find("\nName:"))), '\n')) {
    if (line.starts_with("Libs:") && library != nullptr)
      text += "Libs: -L" + quoted_word(library->result_folder) + line.substr(5) + "\n";
    else if (!line.starts_with("Cflags:"))
      text += text::replace_all(line, " -L${libdir}", "") + "\n";
  }
  text = text::replace_all(text, " -L${libdir}", "");
  std::string flags;
  if (library != nullptr) {
    for (const auto& folders : library->include) {
      for (const auto& folder : folders->folders) flags += " -I" + quoted_word(folder);
    }
    flags += " -I" + quoted_word(library->result_folder) + " -I" + quoted_word(library->folder);
  }
  for (const auto& flag : e.texts(a, "extra_cflags")) flags += " " + quoted_word(flag);
  text += "Cflags:" + flags + "\n";
  // By this name scripts and tests of trees look for it.
  const std::string path = e.work + "/meson-uninstalled/" + file + "-uninstalled.pc";
  files::make_folder(folder_of(path));
  files::write_if_different(path, text);
}

Value pkgconfig_generate(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"name",
                    "filebase",
                    "description",
                    "version",
                    "url",
                    "license",
                    "libraries",
                    "libraries_private",
                    "requires",
                    "requires_private",
                    "conflicts",
                    "subdirs",
                    "install_dir",
                    "variables",
                    "uninstalled_variables",
                    "unescaped_variables",
                    "unescaped_uninstalled_variables",
                    "extra_cflags",
                    "dataonly",
                    "d_module_versions"});
  const auto main_library = a.positional.empty() ? nullptr : a.positional[0].as<Target>();
  std::string name = e.text_or(a, "name", main_library ? main_library->name : e.scope().name);
  const std::string file =
      e.text_or(a, "filebase", main_library && a.find("name") == nullptr ? main_library->name : name);
  if (file.empty() || file.find('/') != std::string::npos)
    e.fail(a, "'" + text::printable_line(file) + "' cannot be the name of a .pc file");
  Described told;
  if (!a.positional.empty()) describe_library(e, a.positional[0], told, false);
  auto requires_ = requirements(e, a, "requires", told, false);
  auto private_requires = requirements(e, a, "requires_private", told, true);
  for (const auto& value : e.list(a, "libraries")) describe_library(e, value, told, false);
  for (const auto& value : e.list(a, "libraries_private")) describe_library(e, value, told, true);
  const auto join_to = [](std::vector<std::string>& to, const std::vector<std::string>& more) {
    for (const auto& one : more) {
      const bool is_there = std::any_of(to.begin(), to.end(),
                                        [&](const auto& held) { return held == one || held.starts_with(one + " "); });
      if (!is_there) to.push_back(one);
    }
  };
  join_to(requires_, told.requires_);
  join_to(private_requires, told.private_requires);
  std::string text = "prefix=" + e.built_in("prefix") + "\n";
  const auto below = [&](const std::string& path) { return path.starts_with('/') ? path : "${prefix}/" + path; };
  const bool data_only = e.truth_or(a, "dataonly", false);
  if (!data_only)
    text += "includedir=" + below(e.below_prefix(e.built_in("includedir"))) +
            "\nlibdir=" + below(e.below_prefix(e.built_in("libdir"))) + "\n";
  for (const char* key : {"variables", "unescaped_variables"}) {
    const auto* given = a.find(key);
    if (given == nullptr) continue;
    if (const auto* dictionary = given->dictionary()) {
      for (const auto& [variable, value] : *dictionary) text += variable + "=" + shown(value) + "\n";
    } else {
      for (const auto& word : e.texts(a, key)) text += word + "\n";
    }
  }
  text +=
      "\nName: " + name + "\nDescription: " + text::replace_all(e.text_or(a, "description", name), "\n", " ") + "\n";
  if (const std::string url = e.text_or(a, "url"); !url.empty()) text += "URL: " + url + "\n";
  text += "Version: " + e.text_or(a, "version", e.scope().version) + "\n";
  if (!requires_.empty()) text += "Requires: " + text::join(requires_, ", ") + "\n";
  if (!private_requires.empty()) text += "Requires.private: " + text::join(private_requires, ", ") + "\n";
  if (const auto conflicts = e.texts(a, "conflicts"); !conflicts.empty())
    text += "Conflicts: " + text::join(conflicts, ", ") + "\n";
  if (!told.libraries.empty()) text += "Libs: " + text::join(told.libraries, " ") + "\n";
  if (!told.private_libraries.empty()) text += "Libs.private: " + text::join(told.private_libraries, " ") + "\n";
  if (!data_only) {
    text += "Cflags:";
    auto folders = e.texts(a, "subdirs");
    if (folders.empty()) folders = {""};
    for (const auto& one : folders)
      text += " -I${includedir}" + (one.empty() || one == "." ? "" : "/" + quoted_word(one));
    for (const auto& flag : e.texts(a, "extra_cflags")) text += " " + quoted_word(flag);
    text += "\n";
  }
  // Scripts of trees look for it there.
  const std::string path = e.work + "/meson-private/" + file + ".pc";
  files::make_folder(folder_of(path));
  files::write_if_different(path, text);
  if (!data_only) write_for_results(e, a, file, main_library.get(), text);
  std::string folder = e.install_folder(a, "install_dir", "libdir");
  if (a.find("install_dir") == nullptr)
    folder = data_only ? e.below_prefix(e.built_in("datadir")) + "/pkgconfig" : folder + "/pkgconfig";
  e.install_file(path, folder + "/" + file + ".pc", 0644, a);
  return object(std::make_shared<File>(path));
}

// ---- i18n: translated messages
Value i18n_gettext(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"args", "data_dirs", "install", "install_dir", "languages", "preset"});
  const std::string domain = e.text(a, 0);
  auto languages = e.texts(a, "languages");
  const std::string list = e.source_folder() + "/LINGUAS";
  if (languages.empty() && files::is_file(list)) {
    e.project.read_files.push_back(list);
    for (const auto& line : text::split(files::read(list).value_or(""), '\n')) {
      for (const auto& word : text::words(line.substr(0, line.find('#')))) languages.push_back(word);
    }
  }
  Array made;
  const std::string program = languages.empty() ? "" : e.tool("msgfmt", a);
  for (const auto& language : languages) {
    const std::string input = e.source_path(language + ".po");
    if (!files::is_file(input) || program.empty()) {
      if (!program.empty())
        e.warn(a.place, "the translation '" + text::printable_line(e.shown_path(input)) + "' is not there");
      continue;
    }
    if (language.find('/') != std::string::npos) continue;
    const std::string output = e.result_path(language + "/LC_MESSAGES/" + domain + ".mo", a);
    e.add_rule({output}, {program, "-o", output, input}, {input}, a);
    made.push_back(object(e.add_custom(domain + "-" + language + ".mo", {output}, true, a)));
    if (e.truth_or(a, "install", true))
      e.install_file(
          output, e.install_folder(a, "install_dir", "localedir") + "/" + language + "/LC_MESSAGES/" + domain + ".mo",
          0644, a);
  }
  // The last two stand for a template and for translations that are brought in step with it, which changes sources.
  auto none = std::make_shared<RunTarget>();
  return Array{Value(std::move(made)), object(none), object(none)};
}

Value i18n_merge_file(Evaluator& e, Self, Arguments& a) {
  e.check_names(a, {"output", "input", "install", "install_dir", "install_mode", "install_tag", "po_dir", "type",
                    "args", "data_dirs", "build_by_default", "depends"});
  const auto inputs = e.paths_of(a.find("input") != nullptr ? e.list(a, "input") : flattened(a.positional), a);
  if (inputs.empty()) e.fail(a, "merge_file() needs an input");
  std::string name = e.text_or(a, "output");
  const std::string plain = base_name(inputs[0]);
  name =
      text::replace_all(text::replace_all(name, "@BASENAME@", plain.substr(0, plain.rfind('.'))), "@PLAINNAME@", plain);
  const std::string output = e.result_path(name, a);
  const std::string program = e.tool("msgfmt", a);
  std::vector<std::string> more = inputs;
  const std::string folder = e.source_path(e.text_or(a, "po_dir"));
  for (const auto& one : files::names_in(folder)) {
    if (one.ends_with(".po") || one == "LINGUAS") more.push_back(folder + "/" + one);
  }
  std::vector<std::string> command = {
      program, "--" + e.text_or(a, "type", "xml"), "--template=" + inputs[0], "-d", folder, "-o", output};
  for (const auto& one : e.texts(a, "args")) command.push_back(one);
  if (!program.empty())
    e.add_rule({output}, command, more, a).actions.back().environment["GETTEXTDATADIRS"] = e.source_folder();
  if (e.truth_or(a, "install", false))
    e.install_file(output, e.install_folder(a, "install_dir", "datadir") + "/" + base_name(output), 0, a);
  return object(e.add_custom(name, {output}, e.truth_or(a, "build_by_default", true), a));
}

Value i18n_itstool_join(Evaluator& e, Self, Arguments& a) {
  e.build.not_installed.push_back(
      {"documentation", e.text_or(a, "output"), a.place, "translated documents are not made"});
  return object(std::make_shared<RunTarget>());
}

// ---- cmake: files by which listfiles find the package
Value config_version_file(Evaluator& e, Self, Arguments& a) {
  const std::string name = e.text_or(a, "name");
  const std::string version = e.text_or(a, "version", e.scope().version);
  const std::string compatibility = e.text_or(a, "compatibility", "AnyNewerVersion");
  std::string text = "set(PACKAGE_VERSION \"" + version + "\")\n";
  const std::string major = version.substr(0, version.find('.'));
  text += "if(PACKAGE_FIND_VERSION VERSION_GREATER PACKAGE_VERSION)\n  set(PACKAGE_VERSION_COMPATIBLE FALSE)\n";
  if (compatibility == "SameMajorVersion")
    text += "elseif(NOT \"${PACKAGE_FIND_VERSION_MAJOR}\" STREQUAL \"" + major +
            "\")\n  set(PACKAGE_VERSION_COMPATIBLE FALSE)\n";
  if (compatibility == "ExactVersion")
    text += "elseif(NOT PACKAGE_FIND_VERSION VERSION_EQUAL PACKAGE_VERSION)\n  set(PACKAGE_VERSION_COMPATIBLE FALSE)\n";
  text +=
      "else()\n  set(PACKAGE_VERSION_COMPATIBLE TRUE)\n  if(PACKAGE_FIND_VERSION STREQUAL PACKAGE_VERSION)\n    "
      "set(PACKAGE_VERSION_EXACT TRUE)\n  endif()\nendif()\n";
  const std::string output = e.result_path(name + "ConfigVersion.cmake", a);
  files::make_folder(folder_of(output));
  files::write_if_different(output, text);
  const std::string folder = a.find("install_dir") != nullptr ? e.install_folder(a, "install_dir", "libdir")
                                                              : e.below_prefix(e.built_in("libdir")) + "/cmake/" + name;
  e.install_file(output, folder + "/" + base_name(output), 0644, a);
  return object(std::make_shared<File>(output));
}
Value config_file(Evaluator& e, Self, Arguments& a) {
  const std::string name = e.text_or(a, "name");
  const auto inputs = e.paths_of(e.list(a, "input"), a);
  const auto data = a.find("configuration") != nullptr ? a.find("configuration")->as<ConfigurationData>() : nullptr;
  if (inputs.empty()) e.fail(a, "configure_package_config_file() needs an input");
  ConfigurationData values = data ? *data : ConfigurationData{};
  if (const auto* dictionary = a.find("configuration") != nullptr ? a.find("configuration")->dictionary() : nullptr) {
    for (const auto& [key, value] : *dictionary) values.set(key, value);
  }
  const std::string folder = a.find("install_dir") != nullptr ? e.install_folder(a, "install_dir", "libdir")
                                                              : e.below_prefix(e.built_in("libdir")) + "/cmake/" + name;
  values.set("PACKAGE_INIT", "get_filename_component(PACKAGE_PREFIX_DIR \"${CMAKE_CURRENT_LIST_DIR}/" +
                                 files::relative("/p", "/p/" + folder) +
                                 "\" ABSOLUTE)\nmacro(set_and_check name folder)\n  set(${name} "
                                 "\"${folder}\")\nendmacro()\nmacro(check_required_components)\nendmacro()\n");
  std::set<std::string> missing;
  const std::string output = e.result_path(name + "Config.cmake", a);
  files::make_folder(folder_of(output));
  e.project.read_files.push_back(inputs[0]);
  files::write_if_different(output, filled_in(files::read(inputs[0]).value_or(""), values, "cmake@", missing));
  e.install_file(output, folder + "/" + base_name(output), 0644, a);
  return {};
}

// ---- keyval: NAME=VALUE in lines
Value keyval_load(Evaluator& e, Self, Arguments& a) {
  const auto paths = a.positional.empty() ? std::vector<std::string>{} : e.paths_of({a.positional[0]}, a);
  const auto content = paths.empty() ? std::nullopt : files::read(paths[0]);
  if (!content) e.fail(a, "the file with values is not there");
  e.project.read_files.push_back(paths[0]);
  Dictionary out;
  for (const auto& line : text::split(*content, '\n')) {
    const std::string plain = line.substr(0, line.find('#'));
    const auto equals = plain.find('=');
    if (equals == std::string::npos) continue;
    const std::string key(text::trim(plain.substr(0, equals)));
    if (find(out, key) == nullptr) out.emplace_back(key, Value(std::string(text::trim(plain.substr(equals + 1)))));
  }
  return out;
}

// ---- sourceset: sources that conditions choose
Value source_set(Evaluator&, Self, Arguments&) { return object(std::make_shared<SourceSet>()); }
Value source_set_add(Evaluator& e, Self self, Arguments& a) {
  auto& set = *std::static_pointer_cast<SourceSet>(self);
  SourceSet::Rule rule;
  rule.when = e.list(a, "when");
  rule.if_true = e.list(a, "if_true");
  rule.if_false = e.list(a, "if_false");
  for (const auto& one : flattened(a.positional)) rule.if_true.push_back(one);
  // Names count from here.
  for (auto* list : {&rule.if_true, &rule.if_false}) {
    for (auto& one : *list) {
      if (one.text() != nullptr) one = object(std::make_shared<File>(e.source_path(*one.text())));
    }
  }
  set.rules.push_back(std::move(rule));
  return {};
}
Value source_set_add_all(Evaluator& e, Self self, Arguments& a) {
  auto& set = *std::static_pointer_cast<SourceSet>(self);
  SourceSet::Rule rule;
  rule.when = e.list(a, "when");
  auto all = e.list(a, "if_true");
  for (const auto& one : flattened(a.positional)) all.push_back(one);
  for (const auto& one : all) {
    if (const auto inner = one.as<SourceSet>()) rule.sets.push_back(inner);
  }
  set.rules.push_back(std::move(rule));
  return {};
}
void choose(const SourceSet& set, const std::function<bool(const Value&)>& holds, bool all, SourceChoice& out,
            std::set<const void*>& seen) {
  // A set may have itself in it, and others twice.
  if (!seen.insert(&set).second) return;
  const auto take = [&](const std::vector<Value>& from) {
    for (const auto& one : from) (one.as<Dependency>() ? out.dependencies : out.sources).push_back(one);
  };
  for (const auto& rule : set.rules) {
    const bool on = all || std::all_of(rule.when.begin(), rule.when.end(), holds);
    take(on ? rule.if_true : rule.if_false);
    if (!on) continue;
    for (const auto& one : rule.when) {
      if (const auto dependency = one.as<Dependency>(); dependency && dependency->found)
        out.dependencies.push_back(one);
    }
    for (const auto& inner : rule.sets) choose(*inner, holds, all, out, seen);
  }
}
Value source_set_apply(Evaluator& e, Self self, Arguments& a) {
  if (a.positional.empty()) e.fail(a, "apply() needs configuration data");
  const auto data = a.positional[0].as<ConfigurationData>();
  const auto* dictionary = a.positional[0].dictionary();
  auto out = std::make_shared<SourceChoice>();
  const auto holds = [&](const Value& when) {
    if (const auto dependency = when.as<Dependency>()) return dependency->found;
    if (when.text() == nullptr) return false;
    const Value* value = dictionary != nullptr ? find(*dictionary, *when.text()) : nullptr;
    if (data) {
      for (const auto& [key, held] : data->values) {
        if (key == *when.text()) value = &held;
      }
    }
    if (value == nullptr) return false;
    if (value->boolean() != nullptr) return *value->boolean();
    if (value->number() != nullptr) return *value->number() != 0;
    return value->text() != nullptr && !value->text()->empty();
  };
  std::set<const void*> seen;
  choose(*std::static_pointer_cast<SourceSet>(self), holds, false, *out, seen);
  return object(std::move(out));
}
Value source_set_all(Evaluator&, Self self, Arguments& a) {
  SourceChoice out;
  std::set<const void*> seen;
  choose(
      *std::static_pointer_cast<SourceSet>(self), [](const Value&) { return true; }, true, out, seen);
  return a.name == "all_sources" ? Value(out.sources) : Value(out.dependencies);
}

// ---- qt: what the toolkit's generators make
std::string qt_tool(Evaluator& e, Self self, const Arguments& a, const std::string& name) {
  const std::string major = std::static_pointer_cast<Module>(self)->name.substr(2, 1);
  return Toolkit(e.locator, major).generator(name, a.name + "()", a.place);
}
void make_with(Evaluator& e, Self self, const Arguments& a, const std::string& name, const std::vector<Value>& values,
               const std::string& before, const std::string& behind, Array& into) {
  if (values.empty()) return;
  const std::string program = qt_tool(e, self, a, name);
  if (program.empty()) return;
  const std::string folder = e.next_made_folder();
  auto all = std::make_shared<CustomTarget>();
  all->folder = folder;
  for (const auto& input : e.paths_of(values, a)) {
    const std::string plain = base_name(input);
    const std::string stem = plain.substr(0, plain.rfind('.'));
    std::string output = folder + "/" + before + stem + behind;
    if (name == "moc" && !plain.ends_with(".h") && !plain.ends_with(".hpp") && !plain.ends_with(".hh") &&
        !plain.ends_with(".hxx"))
      output = folder + "/" + stem + ".moc";
    std::vector<std::string> command = {program};
    std::vector<std::string> inputs = {input};
    if (name == "moc") {
      for (const auto& one : e.list(a, "include_directories")) {
        if (const auto folders = one.as<IncludeFolders>()) {
          for (const auto& path : folders->folders) command.push_back("-I" + path);
        }
      }
      for (const auto& one : e.list(a, "dependencies")) {
        if (const auto dependency = one.as<Dependency>()) {
          for (const auto& path : dependency->usage.include_folders) command.push_back("-I" + path);
          for (const auto& word : dependency->usage.definitions) command.push_back("-D" + word);
        }
      }
      for (const auto& word : e.texts(a, "moc_extra_arguments")) command.push_back(word);
      const std::string macros = folder + "/predefined.h";
      if (all->outputs.empty())
        e.add_rule({macros},
                   command_for_predefined_macros(e.locator.toolchain().compiler_or_any("C++").path, {}, macros), {}, a);
      command.insert(command.end(), {"--include", macros});
      inputs.push_back(macros);
    }
    if (name == "rcc") {
      command.insert(command.end(), {"-name", stem});
      for (const auto& file : files_of_resource_list(input)) inputs.push_back(file);
    }
    if (name == "lrelease")
      command.insert(command.end(), {input, "-qm", output});
    else
      command.insert(command.end(), {"-o", output, input});
    e.add_rule({output}, command, inputs, a);
    all->outputs.push_back(output);
    if (name == "lrelease" && e.truth_or(a, "install", false))
      e.install_file(output, e.install_folder(a, "install_dir", "datadir") + "/" + base_name(output), 0, a);
  }
  if (!all->outputs.empty()) into.push_back(object(std::move(all)));
}
Value qt_preprocess(Evaluator& e, Self self, Arguments& a) {
  Array out;
  auto values = flattened(a.positional);
  std::vector<Value> headers = e.list(a, "moc_headers");
  for (auto& one : e.list(a, "headers")) headers.push_back(std::move(one));
  std::vector<Value> with_objects = e.list(a, "moc_sources");
  std::vector<Value> forms = e.list(a, "ui_files");
  std::vector<Value> lists = e.list(a, "qresources");
  std::vector<Value> translations = e.list(a, "ts_files");
  auto sources = e.list(a, "sources");
  if (a.name == "compile_moc") with_objects = sources;
  if (a.name == "compile_ui") forms = sources;
  if (a.name == "compile_resources") lists = sources;
  if (a.name == "preprocess") {
    // The first is a name, in older ones.
    if (!values.empty() && values[0].text() != nullptr) values.erase(values.begin());
    values.insert(values.end(), sources.begin(), sources.end());
    for (const auto& one : values)
      out.push_back(one.text() != nullptr ? object(std::make_shared<File>(e.source_path(*one.text()))) : one);
  }
  make_with(e, self, a, "moc", headers, "moc_", ".cpp", out);
  make_with(e, self, a, "moc", with_objects, "", ".moc", out);
  make_with(e, self, a, "uic", forms, "ui_", ".h", out);
  make_with(e, self, a, "rcc", lists, "qrc_", ".cpp", out);
  make_with(e, self, a, "lrelease", translations, "", ".qm", out);
  return out;
}
Value qt_has_tools(Evaluator& e, Self self, Arguments& a) {
  const auto wanted = e.wanted(a);
  if (wanted.off) return false;
  return !qt_tool(e, self, a, "moc").empty();
}

const MethodTable& qt_methods() {
  static const MethodTable table = {{"preprocess", qt_preprocess},           {"compile_moc", qt_preprocess},
                                    {"compile_ui", qt_preprocess},           {"compile_resources", qt_preprocess},
                                    {"compile_translations", qt_preprocess}, {"has_tools", qt_has_tools}};
  return table;
}

// ---- windows: nothing of it is for this system
Value nothing_for_here(Evaluator&, Self, Arguments&) { return Array{}; }

// ---- simd: a library for each set of instructions that the compiler has
Value simd_check(Evaluator& e, Self, Arguments& a) {
  static const std::pair<const char*, std::vector<std::string>> sets[] = {
      {"mmx", {"-mmmx"}},     {"sse", {"-msse"}},      {"sse2", {"-msse2"}},    {"sse3", {"-msse3"}},
      {"ssse3", {"-mssse3"}}, {"sse41", {"-msse4.1"}}, {"sse42", {"-msse4.2"}}, {"avx", {"-mavx"}},
      {"avx2", {"-mavx2"}},   {"neon", {"-mfpu=neon"}}};
  auto data = std::make_shared<ConfigurationData>();
  Array libraries;
  const auto compiler = a.find("compiler") != nullptr ? a.find("compiler")->as<CompilerObject>() : nullptr;
  if (!compiler) e.fail(a, "check() needs a compiler");
  const std::string word = compiler->language == "C++" ? "cpp_args" : "c_args";
  for (const auto& [name, flags] : sets) {
    if (a.find(name) == nullptr) continue;
    Arguments question;
    question.name = "has_multi_arguments";
    question.place = a.place;
    for (const auto& flag : flags) question.positional.emplace_back(flag);
    const Value taken = compiler_methods().at("has_multi_arguments")(e, compiler, question);
    if (taken.boolean() == nullptr || !*taken.boolean()) continue;
    data->set("HAVE_" + text::upper(name), Value(std::int64_t{1}));
    Arguments one;
    one.name = "static_library";
    one.place = a.place;
    one.positional = {Value(e.text(a, 0) + "_" + name)};
    one.named.emplace_back("sources", *a.find(name));
    Array all;
    for (const auto& flag : e.texts(a, word)) all.emplace_back(flag);
    for (const auto& flag : flags) all.emplace_back(flag);
    one.named.emplace_back(word, Value(std::move(all)));
    for (const char* key : {"include_directories", "dependencies", "pic"}) {
      if (const auto* held = a.find(key)) one.named.emplace_back(key, *held);
    }
    libraries.push_back(e.call("static_library", one));
  }
  return Array{Value(std::move(libraries)), object(std::move(data))};
}

}  // namespace

const MethodTable& source_set_methods() {
  static const MethodTable table = {{"add", source_set_add},
                                    {"add_all", source_set_add_all},
                                    {"apply", source_set_apply},
                                    {"all_sources", source_set_all},
                                    {"all_dependencies", source_set_all}};
  return table;
}

const MethodTable& module_methods(const std::string& module) {
  static const std::map<std::string, MethodTable> tables = {
      {"fs",
       {{"exists", fs_exists},
        {"is_file", fs_is_file},
        {"is_dir", fs_is_dir},
        {"is_symlink", fs_is_link},
        {"is_absolute", fs_is_absolute},
        {"is_samepath", fs_is_same},
        {"name", fs_name},
        {"parent", fs_parent},
        {"stem", fs_stem},
        {"suffix", fs_suffix},
        {"replace_suffix", fs_replace_suffix},
        {"as_posix", fs_as_posix},
        {"expanduser", fs_expand_user},
        {"read", fs_read},
        {"size", fs_size},
        {"relative_to", fs_relative},
        {"copyfile", fs_copyfile}}},
      {"pkgconfig", {{"generate", pkgconfig_generate}}},
      {"i18n", {{"gettext", i18n_gettext}, {"merge_file", i18n_merge_file}, {"itstool_join", i18n_itstool_join}}},
      {"cmake",
       {{"write_basic_package_version_file", config_version_file}, {"configure_package_config_file", config_file}}},
      {"keyval", {{"load", keyval_load}}},
      {"sourceset", {{"source_set", source_set}}},
      {"qt5", qt_methods()},
      {"qt6", qt_methods()},
      {"windows", {{"compile_resources", nothing_for_here}}},
      {"simd", {{"check", simd_check}}},
      {"gnome", gnome_methods()},
      {"python", python_module_methods()},
      {"python3", python_module_methods()}};
  static const MethodTable none;
  const auto it = tables.find(module);
  return it == tables.end() ? none : it->second;
}

}  // namespace coctilis::describe::meson_build
