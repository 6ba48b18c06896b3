// What is to be installed: kept word by word for the stage that installs. Nothing is installed while reading.
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

// A rule with the folder it stands in, and the usual places as they are known there.
InstallRule new_rule(Evaluator& e) {
  InstallRule rule;
  rule.folder = e.directory().source;
  rule.binary_folder = e.directory().binary;
  const auto place = [&](const char* kind, const char* variable, const std::string& usual) {
    const std::string set = e.value(std::string("CMAKE_INSTALL_") + variable);
    rule.folders[kind] = set.empty() ? usual : set;
  };
  place("RUNTIME", "BINDIR", "bin");
  place("LIBRARY", "LIBDIR", "lib");
  place("ARCHIVE", "LIBDIR", "lib");
  place("PUBLIC_HEADER", "INCLUDEDIR", "include");
  place("SBIN", "SBINDIR", "sbin");
  place("SYSCONF", "SYSCONFDIR", "etc");
  place("SHAREDSTATE", "SHAREDSTATEDIR", "com");
  place("LOCALSTATE", "LOCALSTATEDIR", "var");
  place("RUNSTATE", "RUNSTATEDIR", "var/run");
  place("DATA", "DATADIR", "share");
  place("INFO", "INFODIR", "share/info");
  place("LOCALE", "LOCALEDIR", "share/locale");
  place("MAN", "MANDIR", "share/man");
  place("DOC", "DOCDIR", "share/doc/" + e.value("PROJECT_NAME"));
  return rule;
}

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
  InstallRule rule = new_rule(e);
  for (const auto& text : i.texts()) rule.words.push_back(e.word(text, i));
  e.project.install_rules.push_back(std::move(rule));
}

// Writes files by which other trees could use this one where it was built; nothing of this build needs them.
void command_export(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "export(...)");
  InstallRule rule = new_rule(e);
  rule.for_build_folder = true;
  for (const auto& text : i.texts()) rule.words.push_back(e.word(text, i));
  e.project.install_rules.push_back(std::move(rule));
}

}  // namespace

void add_install_commands(CommandTable& table) {
  table["install"] = command_install;
  table["export"] = command_export;
}

}  // namespace coctilis::describe::listfile
