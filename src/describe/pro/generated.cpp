// Sources and headers that generators write: those of the toolkit, and those that a project brings.
#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/code_generators.h"
#include "describe/pro/project.h"
#include "describe/pro/words.h"
#include "survey/languages.h"

namespace coctilis::describe::pro {

using model::TargetKind;
using model::Unit;

namespace {
// $(MAKE) and the like in a command of the project's own.
bool starts_build(const std::string& commands) {
  return commands.find("$(MAKE)") != std::string::npos || commands.find("$(QMAKE)") != std::string::npos ||
         commands.find("${MAKE}") != std::string::npos;
}
}  // namespace

// A rule whose folders are there when its action runs.
model::Rule Lowering::rule_for(const Made& made, std::vector<std::string> outputs, model::Action action,
                               std::vector<std::string> inputs, const Place& place) const {
  model::Rule rule;
  action.folder = made.unit.work_folder;
  rule.actions = {model::make_folder(made.unit.work_folder, work_),
                  model::make_folder(folder_of(outputs.front()), work_), std::move(action)};
  rule.outputs = std::move(outputs);
  rule.inputs = std::move(inputs);
  rule.place = place;
  return rule;
}

void Lowering::rule(Made& made, const std::string& output, std::vector<std::string> command,
                    const std::vector<std::string>& inputs) {
  if (!made.rules.insert(output).second) return;
  model::Action action;
  action.argv = std::move(command);
  build_.rules.push_back(rule_for(made, {output}, std::move(action), inputs, made.unit.place));
}

// One of the project's own commands. Such a command may start the program that the file is written for, or a make: that
// is done here already, and refused.
model::Rule Lowering::shell_rule(const Made& made, const std::string& output, const std::string& commands,
                                 const std::vector<std::string>& inputs, const Place& place) const {
  model::Action action;
  action.how = model::Action::How::shell;
  action.argv = {filled(made, commands)};
  auto rule = rule_for(made, {output}, std::move(action), inputs, place);
  if (!starts_build(commands)) return rule;
  rule.actions.pop_back();
  rule.refused = Problem{Exit::step,
                         place,
                         "its command starts a build of its own, which is never started here",
                         {},
                         "what it builds can be named with components under [tree] of coctilis.toml",
                         {}};
  return rule;
}

void Lowering::meta_objects(Made& made, const std::string& input, const std::string& output, bool compiled) {
  const std::string moc = toolkit_->generator("moc", "'" + made.unit.name + "'", made.unit.place);
  if (moc.empty()) return;
  std::vector<std::string> command = {moc};
  for (const auto& one : made.definitions) command.push_back("-D" + one);
  for (const auto& folder : made.unit.parts.front().settings.include_folders) command.push_back("-I" + folder.path);
  // What headers branch on.
  const std::string macros = made.generated + "/predefined.h";
  rule(made, macros, command_for_predefined_macros(locator_.toolchain().compiler_or_any("C++").path, {}, macros), {});
  command.insert(command.end(), {"--include", macros, "-o", output, input});
  rule(made, output, std::move(command), {input, macros});
  if (compiled) add_compiled(made, output);
}

// Files that are filled in from templates of the tree.
void Lowering::add_substitutes(Made& made) {
  auto& v = *parts_[made.index].values;
  for (const auto& name : Values(v.values("QMAKE_SUBSTITUTES"))) {
    std::string input = v.value(name + ".input");
    std::string output = v.value(name + ".output");
    if (input.empty()) input = name;
    if (output.empty() && input.ends_with(".in")) output = input.substr(0, input.size() - 3);
    const auto text = files::read(v.source_path(input));
    if (!text || output.empty()) {
      warn(made, "QMAKE_SUBSTITUTES", "'" + text::printable_line(input) + "', which is to be filled in, is not there");
      continue;
    }
    const std::string path = v.result_path(output);
    project_.read_files.push_back(v.source_path(input));
    build_.files.push_back({path, v.value(name + ".CONFIG") == "verbatim" ? *text : v.substituted(*text), false});
    made.written.insert(path);
  }
}

// Sources for interfaces of the message bus, from their descriptions in XML.
void Lowering::add_bus_sources(Made& made) {
  const auto& v = *made.values;
  for (const bool adaptor : {true, false}) {
    const char* variable = adaptor ? "DBUS_ADAPTORS" : "DBUS_INTERFACES";
    for (const auto& name : v.values(variable)) {
      Values files = v.values(name + ".files");
      if (files.empty()) files = {name};
      const std::string tool = toolkit_->generator("qdbusxml2cpp", "'" + made.unit.name + "'", v.place_of(variable));
      if (tool.empty()) return;
      for (const auto& file : files) {
        const std::string input = v.source_path(file);
        // "org.brickyard.kiln.xml" is about kiln.
        const std::string stem = stem_of(input);
        const std::string base =
            made.generated + "/" + stem.substr(stem.rfind('.') + 1) + (adaptor ? "_adaptor" : "_interface");
        const char* option = adaptor ? "-a" : "-p";
        std::vector<std::string> header = {tool};
        for (const auto& word : v.values(name + ".header_flags")) header.push_back(word);
        header.insert(header.end(), {option, base + ".h:", input});
        rule(made, base + ".h", std::move(header), {input});
        std::vector<std::string> source = {tool, "-i", base + ".h"};
        for (const auto& word : v.values(name + ".source_flags")) source.push_back(word);
        source.insert(source.end(), {option, ":" + base + ".cpp", input});
        rule(made, base + ".cpp", std::move(source), {input});
        add_compiled(made, base + ".cpp");
        meta_objects(made, base + ".h", made.generated + "/moc_" + stem_of(base + ".h") + ".cpp", true);
      }
    }
  }
}

void Lowering::add_generated(Made& made) {
  const auto& v = *made.values;
  if (toolkit_ == nullptr || !v.has_config("qt")) return;
  const std::string by = "'" + made.unit.name + "'";
  // Which generated files are included, and by whom.
  static const RE2 inclusion(R"((?m)^[ \t]*#[ \t]*include[ \t]*[<"]([^>"\n]+)[>"])");
  const auto given = made.sources;
  for (const auto& path : given) {
    const std::string text = files::read(path).value_or("");
    re2::StringPiece rest(text);
    std::string name;
    while (RE2::FindAndConsume(&rest, inclusion, &name)) made.included.insert(name.substr(name.rfind('/') + 1));
  }
  add_bus_sources(made);
  static const RE2 macros(R"((?m)^[ \t{]*(?:Q_OBJECT|Q_GADGET|Q_NAMESPACE|Q_NAMESPACE_EXPORT)\b)");
  std::set<std::string> stems;
  for (const auto& one : v.values("HEADERS")) {
    std::string path = v.source_path(one);
    if (!files::is_file(path) && files::is_file(v.result_path(one))) path = v.result_path(one);
    if (!files::is_file(path)) {
      for (const auto& folder : v.values("INCLUDEPATH")) {
        if (files::is_file(v.source_path(folder) + "/" + one)) path = v.source_path(folder) + "/" + one;
      }
    }
    const std::string text = files::read(path).value_or("");
    if (!RE2::PartialMatch(text, macros)) continue;
    std::string stem = stem_of(path);
    // Headers of one name in different folders do not meet.
    for (int n = 2; !stems.insert(stem).second; ++n) stem = stem_of(path) + "_" + std::to_string(n);
    const std::string output = made.generated + "/moc_" + stem + ".cpp";
    meta_objects(made, path, output, !made.included.contains("moc_" + stem + ".cpp"));
  }
  for (const auto& path : given) {
    const std::string name = stem_of(path) + ".moc";
    if (made.included.contains(name) && RE2::PartialMatch(files::read(path).value_or(""), macros))
      meta_objects(made, path, made.generated + "/" + name, false);
  }
  for (const char* variable : {"FORMS", "FORMS3"}) {
    for (const auto& one : v.values(variable)) {
      const std::string uic = toolkit_->generator("uic", by, v.place_of(variable));
      if (uic.empty()) break;
      const std::string path = v.source_path(one);
      const std::string output = made.generated + "/ui_" + stem_of(path) + ".h";
      rule(made, output, {uic, "-o", output, path}, {path});
    }
  }
  std::vector<std::string> lists;
  for (const auto& one : v.values("RESOURCES")) {
    if (one.ends_with(".qrc")) {
      lists.push_back(v.source_path(one));
      continue;
    }
    // Files that are named themselves are a list of their own.
    std::string prefix = v.value(one + ".prefix");
    std::string base = v.value(one + ".base");
    Values named = v.values(one + ".files");
    if (named.empty()) named = {one};
    std::string text = "<RCC>\n<qresource prefix=\"" + text::html(prefix.empty() ? "/" : prefix) + "\">\n";
    const std::string root = base.empty() ? v.folder() : v.source_path(base);
    for (const auto& file : named) {
      const std::string path = v.source_path(file);
      text += "<file alias=\"" + text::html(files::below(path, root)) + "\">" + text::html(path) + "</file>\n";
    }
    text += "</qresource>\n</RCC>\n";
    const std::string path = made.generated + "/" + text::replace_all(one, "/", "_") + ".qrc";
    build_.files.push_back({path, text, false});
    lists.push_back(path);
  }
  for (const auto& path : lists) {
    const std::string rcc = toolkit_->generator("rcc", by, v.place_of("RESOURCES"));
    if (rcc.empty()) break;
    const std::string output = made.generated + "/qrc_" + stem_of(path) + ".cpp";
    auto inputs = files_of_resource_list(path);
    inputs.insert(inputs.begin(), path);
    rule(made, output, {rcc, "--name", text::replace_all(stem_of(path), "-", "_"), "-o", output, path}, inputs);
    add_compiled(made, output);
  }
  if (v.has_config("lrelease") || v.has_config("embed_translations")) {
    const std::string tool = toolkit_->generator("lrelease", by, v.place_of("TRANSLATIONS"));
    std::string folder = made.generated;
    if (const std::string given_folder = v.value("LRELEASE_DIR"); !given_folder.empty())
      folder = v.result_path(given_folder);
    for (const auto& one : v.values("TRANSLATIONS")) {
      if (tool.empty()) break;
      const std::string path = v.source_path(one);
      const std::string output = folder + "/" + stem_of(path) + ".qm";
      rule(made, output, {tool, "-silent", path, "-qm", output}, {path});
    }
  }
}

// ---- generators and targets of the project's own
// ---------------------------------------------------------------------
// "${QMAKE_FILE_BASE}" and the like are the caller's; what makefiles would fill in is filled in here.
std::string Lowering::filled(const Made& made, const std::string& text) const {
  std::string out = text;
  static const RE2 variable(R"(\$\(([A-Za-z_]+)\))");
  std::string name;
  re2::StringPiece rest(text);
  while (RE2::FindAndConsume(&rest, variable, &name)) {
    std::string value = made.values->value("make:" + name);
    if (name == "DESTDIR" || name == "TARGET") value = name == "TARGET" ? made.unit.result.file : "";
    if (name == "INCPATH") {
      for (const auto& folder : made.include_folders)
        value += (value.empty() ? "-I" : " -I") + text::shell_quote(folder);
    }
    if (name == "DEFINES") {
      for (const auto& one : made.definitions) value += (value.empty() ? "-D" : " -D") + text::shell_quote(one);
    }
    out = text::replace_all(out, "$(" + name + ")", value);
  }
  return text::replace_all(out, "$$", "$");
}

void Lowering::add_extra_compilers(Made& made) {
  const auto& v = *made.values;
  for (const auto& name : v.values("QMAKE_EXTRA_COMPILERS")) {
    const Place place = v.place_of(name + ".commands");
    const std::string commands = v.value(name + ".commands");
    const std::string pattern = v.value(name + ".output");
    if (commands.empty() || pattern.empty()) continue;
    const auto& config = v.values(name + ".CONFIG");
    std::vector<std::string> inputs;
    for (const auto& variable : v.values(name + ".input")) {
      for (const auto& one : v.values(variable)) inputs.push_back(v.source_path(one));
    }
    std::vector<std::string> depends;
    for (const auto& one : v.values(name + ".depends")) {
      if (one.find('$') != std::string::npos) continue;
      const std::string path = v.source_path(one);
      depends.push_back(files::exists(path) ? path : v.result_path(one));
    }
    const bool combined = is_word(config, "combine");
    std::vector<std::vector<std::string>> rounds;
    if (combined) {
      if (!inputs.empty()) rounds.push_back(inputs);
    } else {
      for (const auto& one : inputs) rounds.push_back({one});
    }
    for (const auto& round : rounds) {
      const std::string& in = round.front();
      std::string names;
      for (const auto& one : round) names += (names.empty() ? "" : " ") + text::shell_quote(one);
      const auto with = [&](std::string text, const std::string& out) {
        const std::string base = stem_of(in);
        std::string ending = std::filesystem::path(in).extension().string();
        text = text::replace_all(text, "${QMAKE_FILE_IN_BASE}", base);
        text = text::replace_all(text, "${QMAKE_FILE_BASE}", base);
        text = text::replace_all(text, "${QMAKE_FILE_EXT}", ending);
        text = text::replace_all(text, "${QMAKE_FILE_IN_PATH}", folder_of(in));
        text = text::replace_all(text, "${QMAKE_FILE_PATH}", folder_of(in));
        text = text::replace_all(text, "${QMAKE_FILE_IN_NAME}", in.substr(in.rfind('/') + 1));
        text = text::replace_all(text, "${QMAKE_FILE_NAME}", combined ? names : in);
        text = text::replace_all(text, "${QMAKE_FILE_IN}", combined ? names : in);
        text = text::replace_all(text, "${QMAKE_FILE_OUT_BASE}", stem_of(out));
        text = text::replace_all(text, "${QMAKE_FILE_OUT}", out);
        return text;
      };
      const std::string out = v.result_path(with(pattern, ""));
      auto needs = round;
      needs.insert(needs.end(), depends.begin(), depends.end());
      if (!made.rules.insert(out).second) continue;
      build_.rules.push_back(shell_rule(made, out, with(commands, out), needs, place));
      const std::string into = v.value(name + ".variable_out");
      const bool compiled = !survey::compiled_language(out).empty();
      if ((into == "SOURCES" || into == "GENERATED_SOURCES" || into.empty()) && compiled && !is_word(config, "no_link"))
        add_compiled(made, out);
      if (into == "OBJECTS" || (into.empty() && out.ends_with(".o"))) {
        model::UnitSource object;
        object.path = out;
        object.place = place;
        made.unit.sources.push_back(std::move(object));
      }
    }
  }
}

void Lowering::add_extra_targets(Made& made) {
  const auto& v = *made.values;
  std::set<std::string> wanted;
  for (const auto& one : v.values("PRE_TARGETDEPS")) wanted.insert(one);
  for (const auto& one : v.values("ALL_DEPS")) wanted.insert(one);
  for (const auto& one : v.values("POST_TARGETDEPS")) wanted.insert(one);
  for (const auto& name : v.values("QMAKE_EXTRA_TARGETS")) {
    const std::string commands = v.value(name + ".commands");
    std::string target = v.value(name + ".target");
    if (target.empty()) target = name;
    if (commands.empty() || target == "install" || target == "all" || target == "check" || target == "clean") continue;
    const bool in_default = wanted.contains(target) || wanted.contains(name);
    const Place place = v.place_of(name + ".commands");
    std::vector<std::string> inputs;
    for (const auto& one : v.values(name + ".depends")) {
      const std::string path = v.source_path(one);
      if (files::is_file(path)) inputs.push_back(path);
    }
    const std::string file = v.result_path(target);
    // One without an ending is a word to ask for it by.
    const bool phony = is_word(v.values(name + ".CONFIG"), "phony") || target.find('.') == std::string::npos;
    if (in_default && !phony) {
      if (!made.rules.insert(file).second) continue;
      build_.rules.push_back(shell_rule(made, file, commands, inputs, place));
      made.unit.generated.push_back(file);
      continue;
    }
    Unit unit;
    unit.name = target;
    for (int n = 2; !names_.insert(unit.name).second; ++n) unit.name = target + "-" + std::to_string(n);
    unit.kind = TargetKind::custom;
    unit.in_default = in_default;
    unit.folder = made.unit.folder;
    unit.work_folder = made.unit.work_folder;
    unit.place = place;
    // What says that it was made: it may make any file, or none.
    unit.command = shell_rule(made, made.unit.work_folder + "/.made/" + unit.name, commands, inputs, place);
    if (in_default && made.makes_something) made.unit.uses.push_back({unit.name, model::Use::How::first});
    build_.units.push_back(std::move(unit));
  }
  const auto around = [&](const char* variable, model::UnitCommands& into) {
    const std::string line = v.value(variable);
    if (line.empty() || !made.makes_something) return;
    if (starts_build(line))
      throw Fault({Exit::description,
                   v.place_of(variable),
                   std::string(variable) + " starts a build of its own, which is never started here",
                   {},
                   "name another description under [tree] of coctilis.toml, or what it builds with components",
                   {}});
    model::Action action;
    action.how = model::Action::How::shell;
    action.argv = {filled(made, line)};
    action.folder = made.unit.work_folder;
    into.actions.push_back(std::move(action));
  };
  around("QMAKE_PRE_LINK", made.unit.before);
  around("QMAKE_POST_LINK", made.unit.behind);
}

}  // namespace coctilis::describe::pro
