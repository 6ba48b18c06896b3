// What reads other files, ends things, speaks to the user, and sets up projects.
#include <unistd.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/packages.h"

namespace coctilis::describe::listfile {

namespace {

void command_include(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "include(FILE)");
  const bool optional = i.size() > 1 && std::any_of(i.words.begin() + 1, i.words.end(),
                                                    [](const Word& w) { return w.text == "OPTIONAL"; });
  std::string result;
  for (std::size_t k = 1; k + 1 < i.size(); ++k) {
    if (i[k] == "RESULT_VARIABLE") result = i[k + 1];
  }
  std::string name = i[0];
  // The modules of this place go by their names only.
  if (const std::string own = e.value("CMAKE_ROOT") + "/Modules/"; name.starts_with(own) && name.ends_with(".cmake"))
    name = name.substr(own.size(), name.size() - own.size() - 6);
  std::string path;
  if (name.find('/') == std::string::npos && !name.ends_with(".cmake")) {
    for (const auto& folder : list_elements(e.value("CMAKE_MODULE_PATH"))) {
      const std::string candidate = files::absolute(folder, e.directory().source) + "/" + name + ".cmake";
      if (path.empty() && files::is_file(candidate)) path = candidate;
    }
    if (path.empty()) {
      if (const Module module = built_in_module(name)) {
        module(e, i);
        if (!result.empty()) e.set(result, name);
        return;
      }
    }
  }
  if (path.empty() && use_told(e, name, i)) {
    if (!result.empty()) e.set(result, name);
    return;
  }
  // "FindNAME" as a module looks the package NAME up, as find_package does.
  if (path.empty() && name.starts_with("Find") && name.size() > 4 && name.find_first_of("/.") == std::string::npos) {
    Invocation find{"find_package", {{name.substr(4), true}, {"MODULE", false}, {"QUIET", false}}, i.place};
    e.call(find);
    if (!result.empty()) e.set(result, name);
    return;
  }
  if (path.empty()) path = e.source_path(name);
  if (!files::is_file(path)) {
    if (!result.empty()) e.set(result, "NOTFOUND");
    if (optional) return;
    if (name.find('/') == std::string::npos && !name.ends_with(".cmake")) {
      e.fail(i.place, "the module '" + name + "' is not in the tree and not one that is understood yet",
             "CMAKE_MODULE_PATH is: " + e.value("CMAKE_MODULE_PATH"));
    }
    e.fail(i, "the file '" + e.shown(path) + "' to include is not there", "check the path");
  }
  if (!result.empty()) e.set(result, path);
  e.run_file(path, i);
}

// A submodule of the tree that is empty and holds `path`.
const model::Submodule* empty_submodule(const Evaluator& e, const std::string& path) {
  for (const auto& module : e.survey.submodules) {
    if (module.state == model::SubmoduleState::empty && files::is_below(path, e.tree + "/" + module.path))
      return &module;
  }
  return nullptr;
}

void command_add_subdirectory(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_subdirectory(FOLDER)");
  const auto words = keywords(i.texts(), {"EXCLUDE_FROM_ALL", "SYSTEM"}, {}, {});
  const std::string source = e.source_path(words.rest.at(0));
  std::string binary;
  if (words.rest.size() > 1)
    binary = e.binary_path(words.rest[1]);
  else if (files::is_below(source, e.directory().source))
    binary = e.binary_path(files::below(source, e.directory().source));
  else
    e.fail(i, "'" + e.shown(source) + "' lies outside this folder",
           "give add_subdirectory an output folder as second argument");
  if (const auto* module = empty_submodule(e, source)) {
    model::Finding finding;
    finding.requirement = {model::RequirementKind::submodule, module->path, {}, true, "add_subdirectory", i.place};
    finding.looked = {e.tree + "/" + module->path};
    finding.refused = true;
    finding.reason = "its folder is empty";
    e.keep(std::move(finding));
    return;
  }
  if (!files::is_file(source + "/CMakeLists.txt")) {
    e.fail(i, "the folder '" + e.shown(source) + "' has no CMakeLists.txt",
           !files::is_folder(source)             ? "there is no such folder"
           : ::access(source.c_str(), X_OK) != 0 ? "it is there, but this user may not look into it"
                                                 : "it is there, but describes nothing");
  }
  binary = e.writable(binary, i.place);
  for (const auto& folder : e.directories) {
    if (folder->binary == binary)
      e.fail(i, "the output folder of '" + e.shown(source) + "' is used already by '" + e.shown(folder->source) + "'",
             "give another as second argument");
  }
  e.run_subfolder(source, binary, !words.has("EXCLUDE_FROM_ALL"), i);
}

void command_message(Evaluator& e, const Invocation& i) {
  static const std::set<std::string> modes = {"FATAL_ERROR", "SEND_ERROR", "WARNING",   "AUTHOR_WARNING", "DEPRECATION",
                                              "NOTICE",      "STATUS",     "VERBOSE",   "DEBUG",          "TRACE",
                                              "CHECK_START", "CHECK_PASS", "CHECK_FAIL"};
  const bool has_mode = i.size() > 0 && modes.contains(i[0]);
  const std::string mode = has_mode ? i[0] : "NOTICE";
  const std::string text = text::join(i.texts(has_mode ? 1 : 0), "");
  if (mode == "FATAL_ERROR")
    e.fail(i.place, "the description gives up: " + text::printable_line(text), "this is the tree's own message");
  if (mode == "SEND_ERROR")
    e.fail_in_the_end(i.place, "the description gives up: " + text::printable_line(text),
                      "this is the tree's own message");
  if (mode == "WARNING")
    e.warn(i.place, "the description warns: " + text::printable_line(text));
  else if (mode == "STATUS" || mode == "NOTICE" || mode.starts_with("CHECK_")) {
    const std::string indent = text::join(list_elements(e.value("CMAKE_MESSAGE_INDENT"), false), "");
    e.project.messages.push_back(indent +
                                 text::printable(indent.empty() ? text : text::replace_all(text, "\n", "\n" + indent)));
  }
}

void command_return(Evaluator& e, const Invocation& i) {
  const auto words = keywords(i.texts(), {}, {}, {"PROPAGATE"});
  for (const auto& name : words.list("PROPAGATE")) {
    const std::string* found = e.find(name);
    e.set_in_parent(name, found == nullptr ? std::nullopt : std::optional<std::string>(*found));
  }
  e.set_flow(Flow::leave_function);
}
void command_break(Evaluator& e, const Invocation&) { e.set_flow(Flow::leave_loop); }
void command_continue(Evaluator& e, const Invocation&) { e.set_flow(Flow::next_round); }

void command_minimum(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "cmake_minimum_required(VERSION number)");
  if (i[0] != "VERSION") e.fail(i, "'" + i[0] + "' stands where VERSION was expected");
  std::string least = i[1];
  std::string most;
  if (const auto dots = least.find("..."); dots != std::string::npos) {
    most = least.substr(dots + 3);
    least.resize(dots);
  }
  if (text::compare_versions(least, language_level) > 0) {
    e.fail(i, "the description asks for level " + least + " of its language; understood is " + language_level,
           "an older release of the tree may ask for less");
  }
  e.policy_level = !most.empty() && text::compare_versions(most, language_level) <= 0 ? most
                   : !most.empty()                                                    ? language_level
                                                                                      : least;
  e.set("CMAKE_MINIMUM_REQUIRED_VERSION", least);
}

void command_policy(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "cmake_policy(...)");
  const auto number = [&](const std::string& name) {
    const int value = name.starts_with("CMP") ? std::atoi(name.c_str() + 3) : -1;
    if (value < 0 || value > newest_policy)
      e.fail(i, "the policy '" + name + "' is not known", "known are CMP0000 to CMP0" + std::to_string(newest_policy));
    return value;
  };
  if (i[0] == "PUSH") {
    e.policy_stack.emplace_back();
  } else if (i[0] == "POP") {
    if (e.policy_stack.size() > 1) e.policy_stack.pop_back();
  } else if (i[0] == "VERSION") {
    e.need(i, 2, "cmake_policy(VERSION number)");
    command_minimum(e, i);
  } else if (i[0] == "SET") {
    e.need(i, 3, "cmake_policy(SET NAME NEW|OLD)");
    e.policy_stack.back()[number(i[1])] = i[2] == "NEW";
  } else if (i[0] == "GET") {
    e.need(i, 3, "cmake_policy(GET NAME RESULT)");
    const bool said = std::any_of(e.policy_stack.begin(), e.policy_stack.end(),
                                  [&](const auto& level) { return level.contains(number(i[1])); });
    e.set(i[2], e.policy_is_new(number(i[1])) ? "NEW" : said ? "OLD" : "");
  } else {
    e.not_understood(i, "cmake_policy(" + i[0] + ")");
  }
}

void command_project(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "project(NAME)");
  const std::string& name = i[0];
  auto words = keywords(i.texts(1), {}, {"VERSION", "DESCRIPTION", "HOMEPAGE_URL"}, {"LANGUAGES"});
  const bool top = e.directory().parent == nullptr;
  const auto both = [&](const std::string& suffix, const std::string& text) {
    e.set("PROJECT_" + suffix, text);
    e.set(name + "_" + suffix, text);
    if (top && (suffix.starts_with("VERSION") || suffix == "DESCRIPTION" || suffix == "HOMEPAGE_URL"))
      e.set("CMAKE_PROJECT_" + suffix, text);
  };
  e.set("PROJECT_NAME", name);
  both("SOURCE_DIR", e.directory().source);
  both("BINARY_DIR", e.directory().binary);
  both("IS_TOP_LEVEL", top ? "ON" : "OFF");
  // These are visible in all folders once set.
  for (const char* suffix : {"_SOURCE_DIR", "_BINARY_DIR"}) {
    e.set_cache(name + suffix, e.value(name + suffix), "STATIC", "", true, {});
  }
  std::string version = words.get("VERSION");
  const auto parts = version.empty() ? std::vector<std::string>{} : text::split(version, '.');
  const char* const names[] = {"VERSION_MAJOR", "VERSION_MINOR", "VERSION_PATCH", "VERSION_TWEAK"};
  if (words.has("VERSION") || e.policy_is_new(48) || !version.empty() ||
      text::compare_versions(e.policy_level, "3.0") >= 0) {
    both("VERSION", version);
    for (std::size_t k = 0; k < 4; ++k) both(names[k], k < parts.size() ? parts[k] : "");
  }
  both("DESCRIPTION", words.get("DESCRIPTION"));
  both("HOMEPAGE_URL", words.get("HOMEPAGE_URL"));
  if (top) {
    e.set("CMAKE_PROJECT_NAME", name);
    if (e.project.name.empty()) {
      e.project.name = name;
      e.project.version = version;
    }
  }
  auto languages = words.list("LANGUAGES");
  if (!words.has("LANGUAGES")) {
    // The old form: languages right after the name.
    for (const auto& word : words.rest) languages.push_back(word);
    if (languages.empty()) languages = {"C", "CXX"};
  }
  for (const auto& language : languages) e.enable_language(language, i);
  for (const auto& hook : {"CMAKE_PROJECT_INCLUDE", "CMAKE_PROJECT_TOP_LEVEL_INCLUDES"}) {
    for (const auto& file : list_elements(e.value(hook))) e.run_file(e.source_path(file), i);
  }
}

void command_enable_language(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "enable_language(LANGUAGE)");
  for (const auto& language : i.texts()) {
    if (language != "OPTIONAL") e.enable_language(language, i);
  }
}

void command_include_guard(Evaluator& e, const Invocation& i) {
  const std::string scope = i.size() > 0 ? i[0] : "";
  const std::string file = e.list_files.empty() ? "" : e.list_files.back();
  if (scope == "GLOBAL") {
    if (!e.included_once.insert(file).second) e.set_flow(Flow::leave_function);
    return;
  }
  const std::string mark = "__include_guard_" + file;
  if (e.find(mark) != nullptr)
    e.set_flow(Flow::leave_function);
  else
    e.set(mark, "1");
}

void command_parse_arguments(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "cmake_parse_arguments(PREFIX flags one-value-keywords many-value-keywords words...)");
  std::size_t at = 0;
  std::vector<std::string> words;
  const bool from_function = i[0] == "PARSE_ARGV";
  if (from_function) {
    e.need(i, 6, "cmake_parse_arguments(PARSE_ARGV N PREFIX flags one many)");
    at = 2;
    const auto count = static_cast<std::size_t>(std::atol(e.value("ARGC").c_str()));
    for (auto k = static_cast<std::size_t>(std::atol(i[1].c_str())); k < count; ++k)
      words.push_back(e.value("ARGV" + std::to_string(k)));
  } else {
    words = i.texts(4);
  }
  const std::string prefix = i[at] + "_";
  const auto flags = list_elements(i[at + 1], false);
  const auto one = list_elements(i[at + 2], false);
  const auto many = list_elements(i[at + 3], false);
  const auto in = [](const std::vector<std::string>& list, const std::string& word) {
    return std::find(list.begin(), list.end(), word) != list.end();
  };
  for (const auto& name : flags) e.set(prefix + name, "FALSE");
  for (const auto& name : one) e.unset(prefix + name);
  for (const auto& name : many) e.unset(prefix + name);
  std::vector<std::string> rest;
  std::vector<std::string> without_value;
  std::map<std::string, std::vector<std::string>> lists;
  std::string single;
  std::string multiple;
  for (const auto& word : words) {
    if (in(flags, word)) {
      e.set(prefix + word, "TRUE");
      if (!single.empty()) without_value.push_back(single);
      single.clear();
      multiple.clear();
    } else if (in(one, word)) {
      if (!single.empty()) without_value.push_back(single);
      single = word;
      multiple.clear();
    } else if (in(many, word)) {
      if (!single.empty()) without_value.push_back(single);
      single.clear();
      multiple = word;
      lists.try_emplace(word);
    } else if (!single.empty()) {
      e.set(prefix + single, word);
      single.clear();
    } else if (!multiple.empty()) {
      lists[multiple].push_back(from_function ? text::replace_all(word, ";", "\\;") : word);
    } else {
      rest.push_back(from_function ? text::replace_all(word, ";", "\\;") : word);
    }
  }
  if (!single.empty()) without_value.push_back(single);
  for (const auto& [name, values] : lists) {
    if (values.empty())
      without_value.push_back(name);
    else
      e.set(prefix + name, list_join(values));
  }
  if (rest.empty())
    e.unset(prefix + "UNPARSED_ARGUMENTS");
  else
    e.set(prefix + "UNPARSED_ARGUMENTS", list_join(rest));
  if (without_value.empty())
    e.unset(prefix + "KEYWORDS_MISSING_VALUES");
  else
    e.set(prefix + "KEYWORDS_MISSING_VALUES", list_join(without_value));
}

// cmake_language(DEFER [DIRECTORY folder] [ID name] [ID_VAR variable] CALL ...), and questions about such calls.
void defer(Evaluator& e, const Invocation& i) {
  Directory* directory = &e.directory();
  std::string id;
  std::string id_variable;
  std::size_t at = 1;
  for (; at + 1 < i.size() && (i[at] == "DIRECTORY" || i[at] == "ID" || i[at] == "ID_VAR"); at += 2) {
    if (i[at] == "ID")
      id = i[at + 1];
    else if (i[at] == "ID_VAR")
      id_variable = i[at + 1];
    else if (directory = e.directory_of(e.source_path(i[at + 1])); directory == nullptr)
      e.fail(i, "'" + i[at + 1] + "' is no folder that the description has come through");
  }
  if (at + 1 >= i.size()) e.fail(i, "cmake_language(DEFER ...) says nothing to do", "write CALL and a command");
  auto& all = directory->deferred;
  const auto named = [&](const std::string& name) {
    return std::find_if(all.begin(), all.end(), [&](const Deferred& d) { return !d.cancelled && d.id == name; });
  };
  if (i[at] == "CALL") {
    if (id.empty()) id = "_" + std::to_string(all.size());
    if (named(id) != all.end()) e.fail(i, "a deferred call '" + id + "' is there already");
    if (!id_variable.empty()) e.set(id_variable, id);
    all.push_back({id, i[at + 1], e.written_arguments(i, at + 2), e.list_files.back(), i.place, false});
  } else if (i[at] == "CANCEL_CALL") {
    for (++at; at < i.size(); ++at) {
      if (const auto it = named(i[at]); it != all.end()) it->cancelled = true;
    }
  } else if (i[at] == "GET_CALL_IDS") {
    std::vector<std::string> ids;
    for (const auto& one : all) {
      if (!one.cancelled) ids.push_back(one.id);
    }
    e.set(i[at + 1], list_join(ids));
  } else if (i[at] == "GET_CALL" && at + 2 < i.size()) {
    std::vector<std::string> words;
    if (const auto it = named(i[at + 1]); it != all.end()) {
      words.push_back(it->command);
      for (const auto& argument : it->arguments) words.push_back(argument.text);
    }
    e.set(i[at + 2], list_join(words));
  } else {
    e.not_understood(i, "cmake_language(DEFER " + i[at] + ")");
  }
}

void command_language(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "cmake_language(CALL|EVAL|DEFER ...)");
  if (i[0] == "CALL") {
    Invocation inner{i[1], {i.words.begin() + 2, i.words.end()}, i.place};
    e.call(inner);
  } else if (i[0] == "EVAL") {
    e.need(i, 3, "cmake_language(EVAL CODE text)");
    const std::string file = e.list_files.back();  // a copy: the list grows
    e.run_text(text::join(i.texts(2), " "), file);
  } else if (i[0] == "DEFER") {
    defer(e, i);
  } else if (i[0] == "GET_MESSAGE_LOG_LEVEL") {
    e.set(i[1], "STATUS");
  } else {
    e.not_understood(i, "cmake_language(" + i[0] + ")");
  }
}

void command_nothing(Evaluator&, const Invocation&) {}

}  // namespace

void add_flow_commands(CommandTable& table) {
  table["include"] = command_include;
  table["add_subdirectory"] = command_add_subdirectory;
  table["message"] = command_message;
  table["return"] = command_return;
  table["break"] = command_break;
  table["continue"] = command_continue;
  table["cmake_minimum_required"] = command_minimum;
  table["cmake_policy"] = command_policy;
  table["project"] = command_project;
  table["enable_language"] = command_enable_language;
  table["include_guard"] = command_include_guard;
  table["cmake_parse_arguments"] = command_parse_arguments;
  table["cmake_language"] = command_language;
  // Groups files for display in editors; has no part in a build.
  table["source_group"] = command_nothing;
}

}  // namespace coctilis::describe::listfile
