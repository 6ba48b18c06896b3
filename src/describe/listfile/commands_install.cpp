// What is to be installed: kept word by word for the stage that installs. Nothing is installed while reading.
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

void command_install(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "install(TARGETS|FILES|DIRECTORY|... )");
  static const std::set<std::string> kinds = {"TARGETS",
                                              "FILES",
                                              "PROGRAMS",
                                              "DIRECTORY",
                                              "SCRIPT",
                                              "CODE",
                                              "EXPORT",
                                              "IMPORTED_RUNTIME_ARTIFACTS",
                                              "RUNTIME_DEPENDENCY_SET"};
  if (!kinds.contains(i[0])) e.not_understood(i, "install(" + i[0] + ")");
  model::InstallRule rule;
  rule.folder = e.directory().source;
  rule.binary_folder = e.directory().binary;
  for (const auto& text : i.texts()) rule.words.push_back(e.word(text, i));
  e.project.install_rules.push_back(std::move(rule));
}

// Writes files by which other trees could use this one where it was built; nothing of this build needs them.
void command_export(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "export(...)");
  model::InstallRule rule;
  rule.folder = e.directory().source;
  rule.binary_folder = e.directory().binary;
  rule.words.push_back(e.word("EXPORT_FOR_BUILD_FOLDER", i));
  for (const auto& text : i.texts()) rule.words.push_back(e.word(text, i));
  e.project.install_rules.push_back(std::move(rule));
}

}  // namespace

void add_install_commands(CommandTable& table) {
  table["install"] = command_install;
  table["export"] = command_export;
}

}  // namespace coctilis::describe::listfile
