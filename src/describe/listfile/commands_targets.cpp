// Declares what is to be made: programs, libraries, custom targets, rules, and tests.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "survey/languages.h"

namespace coctilis::describe::listfile {

namespace {

// Properties that a target gets from variables CMAKE_<property> when it is declared.
const std::vector<const char*>& initial_properties() {
  static const std::vector<const char*> list = {"C_STANDARD",
                                                "C_STANDARD_REQUIRED",
                                                "C_EXTENSIONS",
                                                "CXX_STANDARD",
                                                "CXX_STANDARD_REQUIRED",
                                                "CXX_EXTENSIONS",
                                                "POSITION_INDEPENDENT_CODE",
                                                "C_VISIBILITY_PRESET",
                                                "CXX_VISIBILITY_PRESET",
                                                "VISIBILITY_INLINES_HIDDEN",
                                                "ARCHIVE_OUTPUT_DIRECTORY",
                                                "LIBRARY_OUTPUT_DIRECTORY",
                                                "RUNTIME_OUTPUT_DIRECTORY",
                                                "BUILD_RPATH",
                                                "INSTALL_RPATH",
                                                "INSTALL_RPATH_USE_LINK_PATH",
                                                "SKIP_BUILD_RPATH",
                                                "BUILD_WITH_INSTALL_RPATH",
                                                "INTERPROCEDURAL_OPTIMIZATION",
                                                "INCLUDE_CURRENT_DIR",
                                                "INCLUDE_CURRENT_DIR_IN_INTERFACE",
                                                "ENABLE_EXPORTS",
                                                "AUTOMOC",
                                                "AUTOUIC",
                                                "AUTORCC",
                                                "AUTOMOC_MOC_OPTIONS",
                                                "AUTOMOC_MACRO_NAMES",
                                                "AUTOUIC_OPTIONS",
                                                "AUTOUIC_SEARCH_PATHS",
                                                "AUTORCC_OPTIONS",
                                                "NO_SONAME",
                                                "INSTALL_NAME_DIR",
                                                "LINK_WHAT_YOU_USE",
                                                "UNITY_BUILD",
                                                "COMPILE_WARNING_AS_ERROR",
                                                "LINK_SEARCH_START_STATIC"};
  return list;
}

Target& declare(Evaluator& e, const std::string& name, model::TargetKind kind, const Invocation& i) {
  auto& target = e.add_target(name, kind, i);
  for (const char* property : initial_properties()) {
    if (const std::string* found = e.find(std::string("CMAKE_") + property))
      target.properties[property] = {e.word(*found, i)};
  }
  const std::string configuration = text::upper(e.configuration());
  for (const std::string& property :
       {"ARCHIVE_OUTPUT_DIRECTORY_" + configuration, "LIBRARY_OUTPUT_DIRECTORY_" + configuration,
        "RUNTIME_OUTPUT_DIRECTORY_" + configuration, configuration + "_POSTFIX"}) {
    if (const std::string* found = e.find("CMAKE_" + property)) target.properties[property] = {e.word(*found, i)};
  }
  for (const char* property : {"Fortran_FORMAT", "Fortran_MODULE_DIRECTORY", "Fortran_PREPROCESS"}) {
    if (const std::string* found = e.find(std::string("CMAKE_") + property))
      target.properties[property] = {e.word(*found, i)};
  }
  // Older names for the folders of results; they count behind the others.
  for (const char* older : {"EXECUTABLE_OUTPUT_PATH", "LIBRARY_OUTPUT_PATH"}) {
    if (const std::string* found = e.find(older)) target.properties[older] = {e.word(*found, i)};
  }
  for (const char* property :
       {"INCLUDE_DIRECTORIES", "COMPILE_OPTIONS", "LINK_OPTIONS", "LINK_DIRECTORIES", "SYSTEM_INCLUDE_DIRECTORIES"}) {
    const auto it = e.directory().properties.find(property);
    if (it != e.directory().properties.end()) target.properties[property] = it->second;
  }
  // Under the old rule only shared libraries hide their symbols.
  target.visibility_for_all = e.policy_is_new(63);
  // Under the old rules every program offers its symbols to what it loads (CMP0065), and optimising at link time is
  // left out for compilers of this kind (CMP0069).
  target.exports_always = !e.policy_is_new(65);
  target.no_link_time_optimisation = !e.policy_is_new(69);
  if (const std::string own = "INTERPROCEDURAL_OPTIMIZATION_" + configuration;
      const std::string* found = e.find("CMAKE_" + own))
    target.properties[own] = {e.word(*found, i)};
  if (const auto it = e.directory().properties.find("LINK_LIBRARIES");
      it != e.directory().properties.end() && kind != model::TargetKind::interface_library) {
    target.properties["LINK_LIBRARIES"] = it->second;
  }
  return target;
}

void add_sources(Evaluator& e, Target& target, const std::vector<std::string>& sources, const Invocation& i) {
  e.append_all(target.sources, sources, i);
}

Target& declare_imported(Evaluator& e, const std::string& name, model::TargetKind kind, const Invocation& i) {
  auto& target = e.add_target(name, kind, i);
  target.imported = true;
  target.in_default = false;
  return target;
}

void alias(Evaluator& e, const std::string& name, const std::string& of, const Invocation& i) {
  const std::string real = e.need_target(of, i).name;
  // Another name may be given anew: the last one counts.
  if (const auto it = e.project.target_index.find(name);
      it != e.project.target_index.end() && !e.project.targets[it->second].alias_of.empty()) {
    e.project.targets[it->second].kind = e.target(real)->kind;
    e.project.targets[it->second].alias_of = real;
    return;
  }
  auto& target = e.add_target(name, e.target(real)->kind, i);
  target.alias_of = real;
  target.in_default = false;
}

void command_add_executable(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_executable(NAME sources...)");
  const auto words = i.texts(1);
  if (words.size() >= 2 && words[0] == "ALIAS") return alias(e, i[0], words[1], i);
  if (!words.empty() && words[0] == "IMPORTED") {
    declare_imported(e, i[0], model::TargetKind::program, i);
    return;
  }
  auto& target = declare(e, i[0], model::TargetKind::program, i);
  std::vector<std::string> sources;
  for (const auto& word : words) {
    if (word == "EXCLUDE_FROM_ALL")
      target.in_default = false;
    else if (word != "WIN32" && word != "MACOSX_BUNDLE")
      sources.push_back(word);
  }
  add_sources(e, target, sources, i);
}

void command_add_library(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_library(NAME kind sources...)");
  static const std::map<std::string, model::TargetKind> kinds = {
      {"STATIC", model::TargetKind::static_library},       {"SHARED", model::TargetKind::shared_library},
      {"MODULE", model::TargetKind::module_library},       {"OBJECT", model::TargetKind::object_set},
      {"INTERFACE", model::TargetKind::interface_library}, {"UNKNOWN", model::TargetKind::shared_library}};
  const auto words = i.texts(1);
  if (words.size() >= 2 && words[0] == "ALIAS") return alias(e, i[0], words[1], i);
  std::size_t at = 0;
  auto kind = e.on("BUILD_SHARED_LIBS") ? model::TargetKind::shared_library : model::TargetKind::static_library;
  bool unknown = false;
  if (at < words.size()) {
    if (const auto it = kinds.find(words[at]); it != kinds.end()) {
      kind = it->second;
      unknown = words[at] == "UNKNOWN";
      ++at;
    }
  }
  if (at < words.size() && words[at] == "IMPORTED") {
    auto& target = declare_imported(e, i[0], kind, i);
    if (unknown) target.properties["IMPORTED_UNKNOWN"] = {e.word("1", i)};
    return;
  }
  auto& target = declare(e, i[0], kind, i);
  std::vector<std::string> sources;
  for (; at < words.size(); ++at) {
    if (words[at] == "EXCLUDE_FROM_ALL")
      target.in_default = false;
    else
      sources.push_back(words[at]);
  }
  add_sources(e, target, sources, i);
}

// Splits "COMMAND a b COMMAND c" and the other keywords of custom commands.
struct CustomWords {
  Rule rule;
  std::map<std::string, std::vector<std::string>> lists;
  std::map<std::string, std::string> one;
  std::set<std::string> flags;
};

CustomWords custom_words(Evaluator& e, const Invocation& i, std::size_t from, bool starts_with_command) {
  static const std::set<std::string> list_keys = {"OUTPUT", "DEPENDS", "BYPRODUCTS", "IMPLICIT_DEPENDS", "SOURCES"};
  // SOURCE is the older word for what the rule is mainly made from.
  static const std::set<std::string> one_keys = {
      "MAIN_DEPENDENCY", "WORKING_DIRECTORY", "COMMENT", "DEPFILE", "JOB_POOL", "TARGET", "SOURCE"};
  static const std::set<std::string> flag_keys = {"VERBATIM",  "APPEND",   "USES_TERMINAL", "COMMAND_EXPAND_LISTS",
                                                  "PRE_BUILD", "PRE_LINK", "POST_BUILD",    "ALL"};
  CustomWords out;
  out.rule.place = i.place;
  out.rule.folder = e.directory().binary;
  out.rule.source_folder = e.directory().source;
  out.rule.binary_folder = e.directory().binary;
  std::string list;
  std::string single;
  Values* command = nullptr;
  const auto new_command = [&] {
    out.rule.commands.emplace_back();
    command = &out.rule.commands.back().words;
    list.clear();
    single.clear();
  };
  if (starts_with_command && from < i.size() && !list_keys.contains(i[from]) && !one_keys.contains(i[from]) &&
      !flag_keys.contains(i[from]) && i[from] != "COMMAND")
    new_command();
  for (std::size_t k = from; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (!i.words[k].quoted && word == "COMMAND") {
      new_command();
    } else if (!i.words[k].quoted && word == "ARGS" && command != nullptr) {
      continue;
    } else if (!i.words[k].quoted && list_keys.contains(word)) {
      list = word;
      out.lists[word];
      single.clear();
      command = nullptr;
    } else if (!i.words[k].quoted && one_keys.contains(word)) {
      single = word;
      list.clear();
      command = nullptr;
    } else if (!i.words[k].quoted && flag_keys.contains(word)) {
      out.flags.insert(word);
      single.clear();
      list.clear();
      command = nullptr;
    } else if (command != nullptr) {
      Evaluator::append(*command, e.word(word, i));
    } else if (!single.empty()) {
      out.one[single] = word;
      single.clear();
    } else if (!list.empty()) {
      out.lists[list].push_back(word);
    } else {
      e.fail(i, "'" + word + "' is not expected here in " + i.name + "(...)");
    }
  }
  auto& rule = out.rule;
  std::erase_if(rule.commands, [](const auto& c) { return c.words.empty(); });
  for (const auto& output : out.lists["OUTPUT"])
    Evaluator::append(rule.outputs, e.word(output.starts_with("$<") ? output : e.binary_path(output), i));
  for (const auto& product : out.lists["BYPRODUCTS"])
    Evaluator::append(rule.byproducts, e.word(product.starts_with("$<") ? product : e.binary_path(product), i));
  for (auto& output : rule.outputs) {
    if (output.text.starts_with("$<")) continue;
    e.rule_makes(output.text, rule, i.place);
    output.text = e.writable(output.text, i.place);
  }
  e.append_all(rule.depends, out.lists["DEPENDS"], i);
  for (const char* main : {"MAIN_DEPENDENCY", "SOURCE"}) {
    if (!out.one[main].empty()) Evaluator::append(rule.depends, e.word(out.one[main], i));
  }
  const auto& implicit = out.lists["IMPLICIT_DEPENDS"];
  for (std::size_t k = 1; k < implicit.size(); k += 2) Evaluator::append(rule.depends, e.word(implicit[k], i));
  if (!out.one["WORKING_DIRECTORY"].empty())
    rule.folder = out.one["WORKING_DIRECTORY"].starts_with("$<") ? out.one["WORKING_DIRECTORY"]
                                                                 : e.binary_path(out.one["WORKING_DIRECTORY"]);
  rule.comment = out.one["COMMENT"];
  if (!out.one["DEPFILE"].empty()) rule.dependency_file = e.binary_path(out.one["DEPFILE"]);
  rule.expand_lists = out.flags.contains("COMMAND_EXPAND_LISTS");
  rule.verbatim = out.flags.contains("VERBATIM");
  return out;
}

void command_add_custom_command(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "add_custom_command(OUTPUT files... COMMAND ...)");
  auto words = custom_words(e, i, 0, false);
  auto& rule = words.rule;
  if (!words.one["TARGET"].empty()) {
    // Under the old rules a target that is not there is passed over (CMP0040).
    constexpr int policy_target_must_be_there = 40;
    if (e.target(words.one["TARGET"]) == nullptr && !e.policy_is_new(policy_target_must_be_there)) {
      e.warn(i.place, "the command is for the target '" + words.one["TARGET"] +
                          "', which is not declared; as the description keeps to old rules, it is left out");
      return;
    }
    auto& target = e.need_target(words.one["TARGET"], i);
    auto& list = words.flags.contains("PRE_BUILD")  ? target.before_compile
                 : words.flags.contains("PRE_LINK") ? target.before_link
                                                    : target.after_link;
    list.push_back(std::move(rule));
    return;
  }
  if (rule.outputs.empty()) e.fail(i, "a rule without OUTPUT makes nothing", "name the files it makes, or a TARGET");
  if (words.flags.contains("APPEND")) {
    for (auto& known : e.project.rules) {
      if (known.outputs.front().text != rule.outputs.front().text) continue;
      known.commands.insert(known.commands.end(), rule.commands.begin(), rule.commands.end());
      known.depends.insert(known.depends.end(), rule.depends.begin(), rule.depends.end());
      return;
    }
    e.fail(i, "APPEND adds to a rule for '" + e.shown(rule.outputs.front().text) + "' that is not there",
           "declare the rule first");
  }
  e.project.rules.push_back(std::move(rule));
}

void command_add_custom_target(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_custom_target(NAME ...)");
  std::size_t from = 1;
  const bool all = i.size() > 1 && i[1] == "ALL";
  if (all) ++from;
  auto words = custom_words(e, i, from, true);
  auto& target = e.add_target(i[0], model::TargetKind::custom, i);
  target.in_default = all && target.in_default;
  for (const auto& depend : words.rule.depends) target.dependencies.push_back(depend);
  e.append_all(target.sources, words.lists["SOURCES"], i);
  // Its own products are reachable for others as files.
  if (!words.rule.commands.empty()) target.commands.push_back(std::move(words.rule));
}

void command_add_dependencies(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_dependencies(TARGET targets...)");
  auto& target = e.need_target(i[0], i);
  for (std::size_t k = 1; k < i.size(); ++k) target.dependencies.push_back(e.word(i[k], i));
}

void command_enable_testing(Evaluator& e, const Invocation&) { e.set("__testing_enabled", "1"); }

void command_add_test(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "add_test(NAME name COMMAND command...)");
  Test test;
  test.place = i.place;
  test.folder = e.directory().binary;
  if (i[0] == "NAME" && !i.words[0].quoted) {
    std::string single;
    bool command = false;
    for (std::size_t k = 0; k < i.size(); ++k) {
      const std::string& word = i[k];
      if (!i.words[k].quoted && (word == "NAME" || word == "WORKING_DIRECTORY" || word == "CONFIGURATIONS")) {
        single = word;
        command = false;
      } else if (!i.words[k].quoted && word == "COMMAND") {
        single.clear();
        command = true;
      } else if (!i.words[k].quoted && word == "COMMAND_EXPAND_LISTS") {
        command = false;
      } else if (command) {
        Evaluator::append(test.command, e.word(word, i));
      } else if (single == "NAME") {
        test.name = word;
      } else if (single == "WORKING_DIRECTORY") {
        test.folder = word.starts_with("$<") ? word : e.binary_path(word);
      } else if (single == "CONFIGURATIONS") {
        test.properties["CONFIGURATIONS"].push_back(e.word(word, i));
      }
    }
  } else {
    test.name = i[0];
    e.append_all(test.command, i.texts(1), i);
  }
  if (test.command.empty()) e.fail(i, "the test '" + test.name + "' has no command");
  for (const auto& known : e.project.tests) {
    if (known.name == test.name && known.properties.contains("__folder") &&
        known.properties.at("__folder").front().text == e.directory().source) {
      e.fail(i.place, "the test '" + test.name + "' is declared a second time", "rename one of the two",
             "the first stands at " + known.place.text());
    }
  }
  test.properties["__folder"] = {e.word(e.directory().source, i)};
  e.directory().tests.push_back(e.project.tests.size());
  e.project.tests.push_back(std::move(test));
}

void command_create_test_sourcelist(Evaluator& e, const Invocation& i) {
  e.not_understood(i, "create_test_sourcelist");
}

void command_aux_source_directory(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "aux_source_directory(FOLDER RESULT)");
  const std::string folder = e.source_path(i[0]);
  std::vector<std::string> found = list_elements(e.value(i[1]));
  std::vector<std::string> names;
  for (const auto& name : files::names_in(folder)) {
    if (!survey::compiled_language(name).empty()) names.push_back(i[0] + "/" + name);
  }
  found.insert(found.end(), names.begin(), names.end());
  e.set(i[1], list_join(found));
}

}  // namespace

void add_target_commands(CommandTable& table) {
  table["add_executable"] = command_add_executable;
  table["add_library"] = command_add_library;
  table["add_custom_command"] = command_add_custom_command;
  table["add_custom_target"] = command_add_custom_target;
  table["add_dependencies"] = command_add_dependencies;
  table["enable_testing"] = command_enable_testing;
  table["add_test"] = command_add_test;
  table["create_test_sourcelist"] = command_create_test_sourcelist;
  table["aux_source_directory"] = command_aux_source_directory;
}

}  // namespace coctilis::describe::listfile
