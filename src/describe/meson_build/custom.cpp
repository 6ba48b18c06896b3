// Files that commands make: while the description is read, and while the tree is built.
#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"
#include "describe/readers.h"
#include "model/documents.h"
#include "survey/languages.h"

namespace coctilis::describe::meson_build {

namespace {

std::string stem_of(const std::string& path) {
  const std::string name = base_name(path);
  const auto dot = name.rfind('.');
  return dot == std::string::npos || dot == 0 ? name : name.substr(0, dot);
}

// What stands for files and folders in the words of a command.
struct Places {
  std::vector<std::string> inputs, outputs;
  std::string output_folder, private_folder, dependency_file;
};

std::string replaced(std::string word, const Places& places, const Evaluator& e) {
  if (word.find('@') == std::string::npos) return word;
  const auto put = [&](const std::string& name, const std::string& value) {
    word = text::replace_all(std::move(word), name, value);
  };
  for (std::size_t i = places.inputs.size(); i-- > 0;) {
    put("@INPUT" + std::to_string(i) + "@", places.inputs[i]);
    put("@PLAINNAME" + std::to_string(i) + "@", base_name(places.inputs[i]));
    put("@BASENAME" + std::to_string(i) + "@", stem_of(places.inputs[i]));
  }
  for (std::size_t i = places.outputs.size(); i-- > 0;) put("@OUTPUT" + std::to_string(i) + "@", places.outputs[i]);
  if (!places.inputs.empty()) {
    put("@INPUT@", places.inputs.front());
    put("@PLAINNAME@", base_name(places.inputs.front()));
    put("@BASENAME@", stem_of(places.inputs.front()));
    put("@SOURCE_DIR@", folder_of(places.inputs.front()));
  }
  if (!places.outputs.empty()) put("@OUTPUT@", places.outputs.front());
  put("@OUTDIR@", places.output_folder);
  put("@PRIVATE_DIR@", places.private_folder);
  put("@DEPFILE@", places.dependency_file);
  put("@SOURCE_ROOT@", e.tree);
  put("@BUILD_ROOT@", e.work);
  put("@CURRENT_SOURCE_DIR@", e.source_folder());
  put("@BUILD_DIR@", places.output_folder);
  return word;
}

// Words that stand for several files.
void expand(const std::string& word, const Places& places, const Evaluator& e, std::vector<std::string>& into) {
  if (word == "@INPUT@")
    into.insert(into.end(), places.inputs.begin(), places.inputs.end());
  else if (word == "@OUTPUT@")
    into.insert(into.end(), places.outputs.begin(), places.outputs.end());
  else
    into.push_back(replaced(word, places, e));
}

void check_output(Evaluator& e, const Arguments& a, const std::string& name) {
  if (name.empty() || name.find('/') != std::string::npos || name == "." || name == "..")
    e.fail(a, "'" + text::clip(text::printable_line(name), 60) +
                  "' cannot be the name of what is made: it is the name of a file in this folder");
}

// Documents by their names, and whatever is no source and lies in a folder for documents.
bool is_document_of_tree(const Evaluator& e, const std::string& path) {
  if (model::is_document(path)) return true;
  static const std::set<std::string> folders = {"doc", "docs", "documentation", "man", "manual", "manuals"};
  const auto parts = text::split(files::below(folder_of(path), e.work), '/');
  const std::string ending = std::filesystem::path(path).extension().string();
  return std::any_of(parts.begin(), parts.end(), [&](const auto& part) { return folders.contains(part); }) &&
         survey::compiled_language(path).empty() && ending != ".h" && ending != ".hpp" && ending != ".so" &&
         ending != ".a";
}

Value custom_target(Evaluator& e, Arguments& a) {
  e.check_names(a, {"input", "output", "command", "capture", "feed", "depends", "depend_files", "depfile",
                    "build_by_default", "build_always", "build_always_stale", "install", "install_dir", "install_mode",
                    "install_tag", "console", "env", "preserve_path"});
  Places places;
  places.inputs = e.paths_of(e.list(a, "input"), a);
  std::vector<std::string> names = e.texts(a, "output");
  if (names.empty()) e.fail(a, "custom_target() needs the name of what it makes under 'output'");
  for (auto& name : names) {
    name = replaced(name, {places.inputs, {}, {}, {}, {}}, e);
    check_output(e, a, name);
  }
  const std::string name = a.positional.empty() ? names.front() : e.text(a, 0);
  places.output_folder = e.result_folder();
  for (const auto& one : names) places.outputs.push_back(e.result_path(one, a));
  places.private_folder = places.output_folder + "/" + names.front() + ".p";
  std::string dependency_file = e.text_or(a, "depfile");
  const bool documents = std::all_of(places.outputs.begin(), places.outputs.end(),
                                     [&](const auto& path) { return is_document_of_tree(e, path); });
  e.for_documents = documents;
  if (!dependency_file.empty())
    places.dependency_file =
        e.result_path(replaced(dependency_file, {places.inputs, places.outputs, {}, {}, {}}, e), a);
  std::vector<std::string> inputs = places.inputs;
  std::vector<std::string> command;
  for (const auto& value : e.list(a, "command")) {
    if (const auto* word = value.text(); word != nullptr && !command.empty()) {
      expand(*word, places, e, command);
    } else {
      for (const auto& one : e.command_words({value}, a, inputs, command.empty()))
        command.push_back(replaced(one, places, e));
    }
  }
  e.for_documents = false;
  if (command.empty()) e.fail(a, "custom_target() needs a command");
  const bool misses = std::any_of(e.missing_programs.begin(), e.missing_programs.end(),
                                  [&](const auto& one) { return one->name == command.front(); }) ||
                      std::any_of(places.inputs.begin(), places.inputs.end(),
                                  [&](const auto& path) { return e.documents_left_out.contains(path); });
  if (documents && misses) {
    e.documents_left_out.insert(places.outputs.begin(), places.outputs.end());
    e.project.left_out.push_back({"documentation", name, a.place, "what makes it is not there"});
    auto none = std::make_shared<CustomTarget>();
    none->name = name;
    none->folder = places.output_folder;
    none->outputs = places.outputs;
    return object(std::move(none));
  }
  for (const auto& path : e.paths_of(e.list(a, "depends"), a)) inputs.push_back(path);
  for (const auto& path : e.paths_of(e.list(a, "depend_files"), a)) inputs.push_back(path);
  const bool capture = e.truth_or(a, "capture", false);
  const bool feed = e.truth_or(a, "feed", false);
  const bool installed = e.truth_or(a, "install", false);
  bool by_default = e.truth_or(a, "build_by_default", installed);
  if (e.truth_or(a, "build_always", false)) by_default = true;
  auto& rule = e.add_rule(places.outputs, command, inputs, a, capture,
                          feed && !places.inputs.empty() ? places.inputs.front() : "");
  rule.dependency_file = places.dependency_file;
  for (const auto& [key, value] : e.environment_of(a.find("env"), a)) rule.actions.back().environment[key] = value;
  model::Rule always;
  if (e.truth_or(a, "build_always_stale", false) || e.truth_or(a, "build_always", false)) {
    // Its commands run each time, as those of a target do that is asked for by its name.
    always = std::move(rule);
    e.build.rules.pop_back();
  }
  auto out = e.add_custom(name, places.outputs, by_default, a, std::move(always));
  if (installed) {
    const auto folders = e.list(a, "install_dir");
    if (folders.empty()) e.fail(a, "what is to be installed needs a folder under 'install_dir'");
    for (std::size_t i = 0; i < places.outputs.size(); ++i) {
      const auto& folder = folders.size() == 1 ? folders[0] : i < folders.size() ? folders[i] : folders.back();
      if (folder.text() == nullptr) continue;  // that one is not
      e.install_file(places.outputs[i], e.below_prefix(*folder.text()) + "/" + base_name(places.outputs[i]), 0, a);
    }
  }
  return object(std::move(out));
}

Value run_target(Evaluator& e, Arguments& a) {
  e.check_names(a, {"command", "depends", "env"});
  auto out = std::make_shared<RunTarget>();
  out->name = e.text(a, 0);
  Places places;
  places.output_folder = e.result_folder();
  std::vector<std::string> inputs = e.paths_of(e.list(a, "depends"), a);
  std::vector<std::string> command;
  for (const auto& word : e.command_words(e.list(a, "command"), a, inputs))
    command.push_back(replaced(word, places, e));
  if (command.empty()) return object(std::move(out));
  model::Action action;
  action.argv = command;
  action.folder = places.output_folder;
  for (const auto& [key, value] : e.environment_of(a.find("env"), a)) action.environment[key] = value;
  action.environment["MESON_SOURCE_ROOT"] = e.tree;
  action.environment["MESON_BUILD_ROOT"] = e.work;
  if (is_build_program(command.front())) {
    e.project.left_out.push_back({"target", out->name, a.place, "it starts a build of its own"});
    return object(std::move(out));
  }
  model::Rule rule;
  rule.inputs = std::move(inputs);
  rule.actions = {model::make_folder(places.output_folder, e.work), std::move(action)};
  e.add_command_unit(e.unit_name(out->name), false, std::move(rule), a);
  return object(std::move(out));
}

Value alias_target(Evaluator& e, Arguments& a) {
  auto out = std::make_shared<RunTarget>();
  out->name = e.text(a, 0);
  model::Rule rule;
  rule.inputs = e.paths_of(flattened(std::vector<Value>(a.positional.begin() + 1, a.positional.end())), a);
  e.add_command_unit(e.unit_name(out->name), false, std::move(rule), a);
  return object(std::move(out));
}

Value generator(Evaluator& e, Arguments& a) {
  e.check_names(a, {"output", "arguments", "depfile", "capture", "depends"});
  auto out = std::make_shared<Generator>();
  if (a.positional.empty()) e.fail(a, "generator() needs a program");
  out->program = flattened(a.positional).front();
  out->outputs = e.texts(a, "output");
  out->arguments = e.texts(a, "arguments");
  out->dependency_file = e.text_or(a, "depfile");
  out->capture = e.truth_or(a, "capture", false);
  out->depends = e.list(a, "depends");
  return object(std::move(out));
}

}  // namespace

// A list of what a generator makes of files: a rule for each.
Value process_with(Evaluator& e, const std::shared_ptr<Object>& self, Arguments& a) {
  e.check_names(a, {"extra_args", "preserve_path_from", "env"});
  const auto& generator = *std::static_pointer_cast<Generator>(self);
  const std::string folder = e.next_made_folder();
  const std::string from = e.text_or(a, "preserve_path_from");
  std::vector<std::string> all;
  for (const auto& input : e.paths_of(flattened(a.positional), a)) {
    Places places;
    places.inputs = {input};
    places.output_folder = folder;
    if (!from.empty() && files::is_below(input, from)) {
      const std::string below = files::below(folder_of(input), files::absolute(from));
      if (!below.starts_with('/')) places.output_folder += "/" + below;
    }
    places.private_folder = folder;
    for (const auto& pattern : generator.outputs) {
      const std::string name = replaced(pattern, {places.inputs, {}, {}, {}, {}}, e);
      check_output(e, a, name);
      places.outputs.push_back(places.output_folder + "/" + name);
    }
    if (places.outputs.empty()) e.fail(a, "the generator names nothing that it makes");
    if (!generator.dependency_file.empty())
      places.dependency_file = places.output_folder + "/" +
                               base_name(replaced(generator.dependency_file, {places.inputs, {}, {}, {}, {}}, e));
    std::vector<std::string> inputs = places.inputs;
    std::vector<std::string> command = e.command_words({generator.program}, a, inputs);
    for (const auto& word : generator.arguments) {
      if (word == "@EXTRA_ARGS@") {
        for (const auto& extra : e.texts(a, "extra_args")) command.push_back(replaced(extra, places, e));
      } else {
        expand(word, places, e, command);
      }
    }
    for (const auto& path : e.paths_of(generator.depends, a)) inputs.push_back(path);
    auto& rule = e.add_rule(places.outputs, command, inputs, a, generator.capture);
    rule.dependency_file = places.dependency_file;
    all.insert(all.end(), places.outputs.begin(), places.outputs.end());
  }
  auto out = std::make_shared<CustomTarget>();
  out->folder = folder;
  out->outputs = std::move(all);
  return object(std::move(out));
}

// ---- templates
// ---------------------------------------------------------------------------------------------------------

namespace {

std::string as_line(const std::string& name, const Value* value, bool of_listfile) {
  if (value == nullptr) return "/* #undef " + name + " */";
  if (const auto* truth = value->boolean()) {
    if (of_listfile) return *truth ? "#define " + name : "/* #undef " + name + " */";
    return (*truth ? "#define " : "#undef ") + name;
  }
  if (of_listfile && value->number() != nullptr && *value->number() == 0) return "/* #undef " + name + " */";
  return "#define " + name + " " + shown(*value);
}

}  // namespace

std::string filled_in(const std::string& text, const ConfigurationData& data, const std::string& format,
                      std::set<std::string>& missing) {
  const auto value_of = [&](const std::string& name) -> const Value* {
    for (const auto& [key, value] : data.values) {
      if (key == name) return &value;
    }
    return nullptr;
  };
  const bool of_listfile = format != "meson";
  static const RE2 own_line(R"([ \t]*#[ \t]*mesondefine[ \t]+([^ \t\r]+)[ \t\r]*)");
  static const RE2 listfile_line(R"([ \t]*#[ \t]*cmakedefine(01)?[ \t]+([^ \t\r]+)[ \t]*([^\r]*)\r?)");
  static const RE2 at_name(R"(\\*@([-A-Za-z0-9_]+)@|\$\{([-A-Za-z0-9_]+)\})");
  std::string out;
  bool first = true;
  const auto filled = [&](const std::string& line) {
    std::string result;
    re2::StringPiece rest(line);
    re2::StringPiece found[3];
    while (at_name.Match(rest, 0, rest.size(), RE2::UNANCHORED, found, 3)) {
      const auto at = static_cast<std::size_t>(found[0].data() - rest.data());
      result += std::string(rest.substr(0, at));
      const bool braces = !found[2].empty();
      const std::string name(braces ? found[2] : found[1]);
      std::string whole(found[0]);
      const auto slashes = braces ? 0 : whole.find('@');
      rest.remove_prefix(at + found[0].size());
      if (braces && format != "cmake") {
        result += whole;
        continue;
      }
      // A backslash before it takes its meaning away; two stand for one.
      result += std::string(slashes / 2, '\\');
      if (slashes % 2 == 1) {
        result += "@" + name + "@";
        continue;
      }
      const auto* value = value_of(name);
      if (value == nullptr) {
        missing.insert(name);
        continue;
      }
      result += value->boolean() != nullptr && of_listfile ? (*value->boolean() ? "1" : "0") : shown(*value);
    }
    return result + std::string(rest);
  };
  for (const auto& line : text::split(text, '\n')) {
    if (!first) out += '\n';
    first = false;
    std::string name;
    std::string which;
    std::string behind;
    if (!of_listfile && RE2::FullMatch(line, own_line, &name)) {
      out += as_line(name, value_of(name), false);
      continue;
    }
    if (of_listfile && RE2::FullMatch(line, listfile_line, &which, &name, &behind)) {
      const auto* value = value_of(name);
      const bool is_off = value == nullptr || (value->boolean() != nullptr && !*value->boolean()) ||
                          (value->number() != nullptr && *value->number() == 0);
      if (!which.empty())
        out += "#define " + name + (is_off ? " 0" : " 1");
      else if (is_off)
        out += "/* #undef " + name + " */";
      else
        out += "#define " + name +
               (behind.empty() ? (value->boolean() != nullptr ? "" : " " + shown(*value)) : " " + filled(behind));
      continue;
    }
    out += filled(line);
  }
  return out;
}

namespace {

std::string written_out(const ConfigurationData& data, const std::string& format, const std::string& guard) {
  std::string out;
  if (format == "json") {
    out = "{";
    bool first = true;
    for (const auto& [name, value] : data.values) {
      out += std::string(first ? "" : ",") + "\n  \"" + name + "\": " +
             (value.text() != nullptr
                  ? "\"" + text::replace_all(text::replace_all(*value.text(), "\\", "\\\\"), "\"", "\\\"") + "\""
                  : shown(value));
      first = false;
    }
    return out + "\n}\n";
  }
  const std::string sign = format == "nasm" ? "%" : "#";
  out = format == "nasm" ? "; written by the build; changes are lost\n\n"
                         : "/* Written by the build; changes are lost. */\n\n";
  if (format != "nasm") out += guard.empty() ? "#pragma once\n\n" : "#ifndef " + guard + "\n#define " + guard + "\n\n";
  auto values = data.values;
  std::sort(values.begin(), values.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  for (const auto& [name, value] : values) {
    if (const auto it = data.descriptions.find(name); it != data.descriptions.end())
      out += format == "nasm" ? "; " + text::replace_all(it->second, "\n", "\n; ") + "\n"
                              : "/* " + text::replace_all(it->second, "*/", "* /") + " */\n";
    if (const auto* truth = value.boolean())
      out += sign + (*truth ? "define " : "undef ") + name + "\n\n";
    else
      out += sign + "define " + name + " " + shown(value) + "\n\n";
  }
  if (format != "nasm" && !guard.empty()) out += "#endif\n";
  return out;
}

Value configure_file(Evaluator& e, Arguments& a) {
  e.check_names(a, {"input", "output", "configuration", "command", "copy", "capture", "depfile", "format", "encoding",
                    "install", "install_dir", "install_mode", "install_tag", "output_format", "macro_name"});
  const auto inputs = e.paths_of(e.list(a, "input"), a);
  std::string name = e.text_or(a, "output");
  if (name.empty()) e.fail(a, "configure_file() needs the name of what it makes under 'output'");
  Places places;
  places.inputs = inputs;
  places.output_folder = e.result_folder();
  name = replaced(name, places, e);
  const std::string output = e.result_path(name, a);
  places.outputs = {output};
  files::make_folder(folder_of(output));
  const auto content_of = [&](const std::string& path) {
    const auto content = files::read(path);
    if (!content)
      e.fail(
          a,
          "'" + text::printable_line(e.shown_path(path)) + "', which is to be filled in, " + files::why_not_read(path),
          "check the path");
    e.project.read_files.push_back(path);
    return *content;
  };
  if (const auto* configuration = a.find("configuration")) {
    ConfigurationData data;
    if (const auto held = configuration->as<ConfigurationData>()) {
      data = *held;
    } else if (configuration->dictionary() != nullptr) {
      for (const auto& [key, value] : *configuration->dictionary()) data.set(key, value);
    } else {
      e.fail(a, "'configuration' of configure_file() is configuration data or a dictionary");
    }
    std::string text;
    if (inputs.empty()) {
      text = written_out(data, e.text_or(a, "output_format", "c"), e.text_or(a, "macro_name"));
    } else {
      std::set<std::string> missing;
      text = filled_in(content_of(inputs.front()), data, e.text_or(a, "format", "meson"), missing);
      if (!missing.empty())
        e.warn(a.place, "the template '" + text::printable_line(e.shown_path(inputs.front())) +
                            "' has names that nobody gives a value: " +
                            text::clip(text::printable_line(text::join({missing.begin(), missing.end()}, ", ")), 200));
    }
    files::write_if_different(output, text);
  } else if (e.truth_or(a, "copy", false)) {
    if (inputs.empty()) e.fail(a, "configure_file() has nothing to copy");
    files::write_if_different(output, content_of(inputs.front()));
  } else if (a.find("command") != nullptr) {
    std::vector<std::string> ignored;
    std::vector<std::string> command;
    for (const auto& value : e.list(a, "command")) {
      if (const auto* word = value.text(); word != nullptr && !command.empty()) {
        expand(*word, places, e, command);
      } else {
        for (const auto& one : e.command_words({value}, a, ignored, command.empty()))
          command.push_back(replaced(one, places, e));
      }
    }
    const auto ended = e.run_command(command, places.output_folder, {}, a);
    if (!ended.good())
      throw Fault({Exit::description,
                   a.place,
                   "the command '" + text::clip(text::printable_line(text::shell_join(command)), 120) +
                       "' failed: " + ended.text(),
                   text::clip(text::printable_line(std::string(text::trim(ended.errors))), 400),
                   {},
                   {}});
    if (e.truth_or(a, "capture", false)) files::write_if_different(output, ended.output);
  } else {
    e.fail(a, "configure_file() says neither 'configuration' nor 'copy' nor 'command'");
  }
  if (!inputs.empty() && files::is_program(inputs.front())) files::set_mode(output, 0755);
  // A folder alone says that it is to be installed, too; an empty one that it is not.
  if (const std::string folder = e.text_or(a, "install_dir"); !folder.empty() && e.truth_or(a, "install", true))
    e.install_file(output, e.below_prefix(folder) + "/" + base_name(output), 0, a);
  return object(std::make_shared<File>(output));
}

// A template with the revision of the tree, where a repository tells it, else with what is given for that case.
Value vcs_tag(Evaluator& e, Arguments& a) {
  e.check_names(a, {"input", "output", "command", "fallback", "replace_string", "install", "install_dir",
                    "install_mode", "install_tag"});
  const auto inputs = e.paths_of(e.list(a, "input"), a);
  if (inputs.empty()) e.fail(a, "vcs_tag() needs an input");
  std::string revision = e.text_or(a, "fallback", e.scope().version);
  std::vector<std::string> ignored;
  std::vector<std::string> command;
  if (a.find("command") != nullptr) {
    command = e.command_words(e.list(a, "command"), a, ignored);
  } else if (files::exists(e.scope().folder + "/.git")) {
    command = {"git", "describe", "--dirty=+", "--always"};
  }
  if (!command.empty() && !is_build_program(command.front())) {
    const auto ended = e.run_command(command, e.source_folder(), {}, a);
    if (ended.good()) revision = std::string(text::trim(ended.output));
  }
  const std::string output = e.result_path(e.text_or(a, "output"), a);
  const auto content = files::read(inputs.front());
  if (!content)
    e.fail(a, "'" + text::printable_line(e.shown_path(inputs.front())) + "' " + files::why_not_read(inputs.front()));
  e.project.read_files.push_back(inputs.front());
  files::write_if_different(output, text::replace_all(*content, e.text_or(a, "replace_string", "@VCS_TAG@"), revision));
  return object(e.add_custom(base_name(output), {output}, true, a));
}

}  // namespace

// ---- what functions are lent
// ---------------------------------------------------------------------------------------------

std::vector<std::string> Evaluator::paths_of(const std::vector<Value>& values, const Arguments& a) {
  std::vector<std::string> out;
  for (const auto& value : flattened(values)) {
    if (const auto* text = value.text()) {
      out.push_back(source_path(*text));
    } else if (const auto file = value.as<File>()) {
      out.push_back(file->path);
    } else if (const auto target = value.as<Target>()) {
      out.push_back(target->result.file);
    } else if (const auto custom = value.as<CustomTarget>()) {
      lists::append(out, custom->outputs);
    } else if (const auto output = value.as<CustomOutput>()) {
      out.push_back(output->path);
    } else if (const auto program = value.as<Program>()) {
      if (program->target)
        out.push_back(program->target->result.file);
      else if (!program->command.empty())
        out.push_back(program->command.back());
    } else if (!value.as<RunTarget>() && !value.as<Dependency>()) {
      fail(a, std::string(value.kind()) + " is no file");
    }
  }
  return out;
}

std::vector<std::string> Evaluator::command_words(const std::vector<Value>& values, const Arguments& a,
                                                  std::vector<std::string>& inputs, bool whole) {
  std::vector<std::string> out;
  const auto add = [&](const std::string& word, bool is_file) {
    out.push_back(word);
    if (is_file) inputs.push_back(word);
  };
  const auto add_program = [&](Program& program) {
    if (program.missing) {
      program.used = true;
      program.needed = program.needed || !for_documents;
    }
    if (program.target) return add(program.target->result.file, true);
    if (program.command.empty()) return add(program.name, false);
    lists::append(out, program.command);
    if (files::is_below(out.back(), tree)) inputs.push_back(out.back());
  };
  for (const auto& value : flattened(values)) {
    const bool is_name = value.text() != nullptr || value.as<File>();
    if (whole && out.empty() && is_name) {
      // The program itself, by name.
      add_program(*find_program({value}, {true, false}, a));
    } else if (const auto* text = value.text()) {
      add(*text, false);
    } else if (const auto program = value.as<Program>()) {
      add_program(*program);
    } else if (const auto compiler = value.as<CompilerObject>()) {
      add(locator.toolchain().compiler_or_any(compiler->language).path, false);
    } else {
      for (const auto& path : paths_of({value}, a)) add(path, true);
    }
  }
  return out;
}

std::map<std::string, std::string> Evaluator::environment_of(const Value* value, const Arguments& a) {
  std::map<std::string, std::string> out;
  if (value == nullptr) return out;
  if (const auto held = value->as<EnvironmentObject>()) return held->values;
  if (const auto* dictionary = value->dictionary()) {
    for (const auto& [key, one] : *dictionary)
      out[key] = one.array() != nullptr ? text::join(texts(*one.array(), a), ":") : shown(one);
    return out;
  }
  for (const auto& word : texts(flattened(*value), a)) {
    const auto equals = word.find('=');
    if (equals != std::string::npos) out[word.substr(0, equals)] = word.substr(equals + 1);
  }
  return out;
}

model::Rule& Evaluator::add_rule(std::vector<std::string> outputs, std::vector<std::string> command,
                                 std::vector<std::string> inputs, const Arguments& a, bool capture,
                                 const std::string& input) {
  model::Rule rule;
  model::Action action;
  if (capture || !input.empty()) {
    action.how = model::Action::How::shell;
    action.argv = {text::shell_join(command) + (input.empty() ? "" : " <" + text::shell_quote(input)) +
                   (capture ? " >" + text::shell_quote(outputs.front()) : "")};
  } else {
    action.argv = command;
  }
  action.folder = work;
  std::set<std::string> folders;
  for (const auto& output : outputs) folders.insert(folder_of(output));
  for (const auto& folder : folders) rule.actions.push_back(model::make_folder(folder, work));
  rule.actions.push_back(std::move(action));
  rule.outputs = std::move(outputs);
  std::set<std::string> seen;
  for (auto& one : inputs) {
    if (seen.insert(one).second) rule.inputs.push_back(std::move(one));
  }
  rule.place = a.place;
  if (is_build_program(command.front())) {
    rule.actions.pop_back();
    rule.refused = Problem{Exit::step,
                           a.place,
                           "its command starts a build of its own, which is never started here",
                           {},
                           "what it builds can be named with components under [tree] of coctilis.toml",
                           {}};
  }
  build.rules.push_back(std::move(rule));
  return build.rules.back();
}

std::shared_ptr<CustomTarget> Evaluator::add_custom(const std::string& name, std::vector<std::string> outputs,
                                                    bool by_default, const Arguments& a, model::Rule always) {
  auto out = std::make_shared<CustomTarget>();
  out->name = name;
  out->folder = folder_of(outputs.front());
  out->outputs = std::move(outputs);
  if (always.outputs.empty()) always.inputs = out->outputs;
  add_command_unit(unit_name(name), by_default, std::move(always), a);
  return out;
}

void Evaluator::add_command_unit(const std::string& unit, bool by_default, model::Rule rule, const Arguments& a) {
  model::Unit out;
  out.name = unit;
  out.kind = model::TargetKind::custom;
  out.in_default = by_default;
  out.folder = source_folder();
  out.work_folder = result_folder();
  out.place = a.place;
  rule.outputs.insert(rule.outputs.begin(), work + "/.targets/" + text::replace_all(unit, "/", "-"));
  rule.place = a.place;
  out.command = std::move(rule);
  build.units.push_back(std::move(out));
}

void add_custom_functions(FunctionTable& table) {
  table["custom_target"] = custom_target;
  table["run_target"] = run_target;
  table["alias_target"] = alias_target;
  table["generator"] = generator;
  table["configure_file"] = configure_file;
  table["vcs_tag"] = vcs_tag;
}

}  // namespace coctilis::describe::meson_build
