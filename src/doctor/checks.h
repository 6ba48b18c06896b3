// Explains why a check failed and what to do about it. A new cause is a function in one of the check_*.cpp and a line
// in the table of checks.cpp.
#pragma once

#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/process.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::doctor {

// What is known of a program that a check ran and that failed.
struct CheckCase {
  const model::Plan& plan;
  std::string program;  // absolute
  std::vector<std::string> argv;
  std::string folder;  // where it ran, as it saw it
  std::string output;
  Ended::How how = Ended::How::exited;
  int code = 0;                     // exit status, signal number, or errno when it could not be started
  bool waited = false;              // it still ran at its time limit
  std::string waits_for;            // what it waited for then, in words; empty: not known
  std::vector<std::string> frames;  // where it was when it crashed: "function (file:line)", the innermost first
  std::set<std::string> in_vain;    // absolute names of files that it asked for and that are not there
  std::set<std::string> unwritten;  // absolute names that it wanted to write to and that are not there
  std::vector<std::string> library_folders;  // where the tree's own shared libraries lie
  std::set<std::string> environment;         // names of variables that were set
  bool is_asked = false;                     // it is one of coctilis.toml, whose keys can be changed
};

// What the first cause in the table says that applies; nothing when none does.
[[nodiscard]] std::optional<model::Diagnosis> diagnose_check(const CheckCase& c);

// ---- the causes: nothing when it is another ---------------------------------------------------------------------
using CheckDiagnosis = std::optional<model::Diagnosis>;
// check_ends.cpp
[[nodiscard]] CheckDiagnosis library_not_found(const CheckCase& c);
[[nodiscard]] CheckDiagnosis symbol_not_found(const CheckCase& c);
[[nodiscard]] CheckDiagnosis not_startable(const CheckCase& c);
[[nodiscard]] CheckDiagnosis limit_reached(const CheckCase& c);
[[nodiscard]] CheckDiagnosis crash(const CheckCase& c);
[[nodiscard]] CheckDiagnosis hang(const CheckCase& c);
// check_network.cpp
[[nodiscard]] CheckDiagnosis port_taken(const CheckCase& c);
[[nodiscard]] CheckDiagnosis connection_refused(const CheckCase& c);
[[nodiscard]] CheckDiagnosis name_unknown(const CheckCase& c);
[[nodiscard]] CheckDiagnosis interface_down(const CheckCase& c);
[[nodiscard]] CheckDiagnosis no_display(const CheckCase& c);
[[nodiscard]] CheckDiagnosis no_device(const CheckCase& c);
// check_files.cpp
[[nodiscard]] CheckDiagnosis program_not_found(const CheckCase& c);
[[nodiscard]] CheckDiagnosis folder_not_there(const CheckCase& c);
[[nodiscard]] CheckDiagnosis file_not_found(const CheckCase& c);
[[nodiscard]] CheckDiagnosis not_writable(const CheckCase& c);
[[nodiscard]] CheckDiagnosis locale_unknown(const CheckCase& c);
[[nodiscard]] CheckDiagnosis variable_not_set(const CheckCase& c);

// ---- what several of them look up -------------------------------------------------------------------------------
// What the first group of the pattern (RE2, multi-line, foreign bytes are no text) catches in the output; of a pattern
// without groups, what it matches. Empty when it matches nothing.
[[nodiscard]] std::string caught_in(const CheckCase& c, const char* pattern);
// The line of the output that holds `text`, for people.
[[nodiscard]] std::string line_with(const CheckCase& c, const std::string& text);
// A file or folder for people: from the working folder, the program's folder or the tree, whichever it is below.
[[nodiscard]] std::string shown_file(const CheckCase& c, const std::string& path);
// "install it: apt-get install NAME", or what stands in for it.
[[nodiscard]] std::string install_or(const std::string& package, const std::string& otherwise);

}  // namespace coctilis::doctor
