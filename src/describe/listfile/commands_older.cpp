// Commands of earlier levels of the language that trees still use: each is a newer one in other words.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/regex.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

namespace {

void call_with(Evaluator& e, const Invocation& i, const std::string& name, const std::vector<std::string>& texts) {
  Invocation inner{name, {}, i.place};
  for (const auto& text : texts) inner.words.push_back({text, false});
  e.call(inner);
}

void command_subdirs(Evaluator& e, const Invocation& i) {
  bool in_default = true;
  for (const auto& name : i.texts()) {
    if (name == "EXCLUDE_FROM_ALL") {
      in_default = false;
    } else if (name != "PREORDER") {
      std::vector<std::string> words = {name};
      if (!in_default) words.emplace_back("EXCLUDE_FROM_ALL");
      call_with(e, i, "add_subdirectory", words);
    }
  }
}

void command_make_directory(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "make_directory(FOLDER)");
  call_with(e, i, "file", {"MAKE_DIRECTORY", i[0]});
}

void command_remove(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "remove(VARIABLE values...)");
  if (i.size() < 2 || e.find(i[0]) == nullptr) return;
  std::vector<std::string> words = {"REMOVE_ITEM"};
  for (auto& text : i.texts()) words.push_back(std::move(text));
  call_with(e, i, "list", words);
}

void command_write_file(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "write_file(FILE texts... [APPEND])");
  std::vector<std::string> words = i.texts();
  const bool append = words.back() == "APPEND";
  if (append) words.pop_back();
  const std::string text = text::join({words.begin() + 1, words.end()}, "") + "\n";
  Invocation inner{"file", {{append ? "APPEND" : "WRITE", false}, {words.front(), false}, {text, true}}, i.place};
  e.call(inner);
}

// install_files(/include [FILES] names...): the place is given as if the prefix were the root.
void install_named(Evaluator& e, const Invocation& i, const std::string& what) {
  e.need(i, 2, i.name + "(PLACE names...)");
  std::string place = i[0];
  while (place.starts_with('/')) place.erase(0, 1);
  if (place.empty()) place = ".";
  std::vector<std::string> words = {what};
  std::vector<std::string> more;
  // The oldest forms: an ending that the names behind it get, or an expression that names of the folder match.
  const bool oldest = what != "TARGETS" && i[1] != "FILES";
  const std::string ending = oldest && i.size() > 2 && i[1].starts_with('.') ? i[1] : "";
  if (oldest && i.size() == 2) {
    Regex expression(i[1]);
    for (const auto& name : files::names_in(e.directory().source)) {
      if (files::is_file(e.directory().source + "/" + name) && expression.matches(name)) words.push_back(name);
    }
    if (words.size() == 1) words.push_back(i[1]);  // a name of something that is still to be made
  }
  for (std::size_t k = (oldest && i.size() == 2) || !ending.empty() ? 2 : 1; k < i.size(); ++k) {
    if (i[k] == "FILES") continue;
    if (i[k] == "RUNTIME_DIRECTORY" && k + 1 < i.size()) {
      std::string other = i[++k];
      while (other.starts_with('/')) other.erase(0, 1);
      more = {"RUNTIME", "DESTINATION", other};
      continue;
    }
    words.push_back(i[k].ends_with(ending) ? i[k] : i[k] + ending);
  }
  if (more.empty()) {
    words.insert(words.end(), {"DESTINATION", place});
  } else {
    words.insert(words.end(), more.begin(), more.end());
    for (const char* kind : {"LIBRARY", "ARCHIVE"}) words.insert(words.end(), {kind, "DESTINATION", place});
  }
  call_with(e, i, "install", words);
}
void command_install_files(Evaluator& e, const Invocation& i) { install_named(e, i, "FILES"); }
void command_install_programs(Evaluator& e, const Invocation& i) { install_named(e, i, "PROGRAMS"); }
void command_install_targets(Evaluator& e, const Invocation& i) { install_named(e, i, "TARGETS"); }

// ..._add_library(NAME [STATIC|SHARED|MODULE] [WITH_SOABI] sources...): a module that an interpreter loads.
void interpreter_library(Evaluator& e, const Invocation& i, const locate::KnownInterpreter& interpreter,
                         const std::string& package) {
  e.need(i, 2, i.name + "(NAME [MODULE|SHARED|STATIC] sources...)");
  std::string kind = "MODULE";
  bool tagged = false;
  std::vector<std::string> sources;
  for (std::size_t k = 1; k < i.size(); ++k) {
    if (i[k] == "MODULE" || i[k] == "SHARED" || i[k] == "STATIC")
      kind = i[k];
    else if (i[k] == "WITH_SOABI")
      tagged = true;
    else if (i[k] == "USE_SABI")
      e.not_understood(i, i.name + "(... USE_SABI)");
    else
      sources.push_back(i[k]);
  }
  std::vector<std::string> words = {i[0], kind};
  words.insert(words.end(), sources.begin(), sources.end());
  call_with(e, i, "add_library", words);
  if (kind == "MODULE") {
    const std::string tag = tagged ? e.value(package + "_SOABI") : "";
    call_with(e, i, "set_target_properties",
              {i[0], "PROPERTIES", "PREFIX", "", "SUFFIX", (tag.empty() ? "" : "." + tag) + ".so"});
  }
  for (const auto& part : {interpreter.module_target, interpreter.embedded_target}) {
    const std::string target = package + "::" + part;
    if (e.target(target) == nullptr) continue;
    call_with(e, i, "target_link_libraries", {i[0], "PRIVATE", target});
    break;
  }
}

void command_interpreter_library(Evaluator& e, const Invocation& i) {
  for (const auto& interpreter : locate::known_interpreters()) {
    const auto found = interpreter.library_commands.find(text::lower(i.name));
    if (found != interpreter.library_commands.end()) interpreter_library(e, i, interpreter, found->second);
  }
}

}  // namespace

void add_older_commands(CommandTable& table) {
  table["subdirs"] = command_subdirs;
  table["make_directory"] = command_make_directory;
  table["remove"] = command_remove;
  table["write_file"] = command_write_file;
  table["install_files"] = command_install_files;
  table["install_programs"] = command_install_programs;
  table["install_targets"] = command_install_targets;
  for (const auto& interpreter : locate::known_interpreters()) {
    for (const auto& [command, package] : interpreter.library_commands) table[command] = command_interpreter_library;
  }
}

}  // namespace coctilis::describe::listfile
