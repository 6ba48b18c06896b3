// How a makefile is asked for: the command line of the standard's make, and what its callers hand on in MAKEFLAGS.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::makefile {

struct Call {
  std::string folder;                  // absolute: where it works
  std::vector<std::string> makefiles;  // -f; empty: makefile, Makefile
  std::string standard_input;          // the makefile "-": its text
  std::vector<std::string> goals;
  std::vector<std::string> assignments;      // NAME=VALUE, NAME:=VALUE, ... of the command line
  std::vector<std::string> own_variables;    // names that its own words give values to, not those of its callers
  std::vector<std::string> include_folders;  // -I
  std::vector<std::string> texts;            // --eval
  std::map<std::string, std::string> environment;
  bool environment_wins = false;  // -e
  bool ignore_errors = false;     // -i
  bool keep_going = false;        // -k
  bool dry = false;               // -n
  bool question = false;          // -q
  bool no_rules = false;          // -r
  bool no_variables = false;      // -R
  bool silent = false;            // -s
  bool touch = false;             // -t
  bool all = false;               // -B
  bool version = false;           // --version
  bool print_folder = false;      // -w
  unsigned jobs = 0;              // -j; 0: not said
  int level = 0;                  // MAKELEVEL
  std::string output_root;        // absolute: the only folder that reading itself writes to; empty: none
  std::string program = "make";   // what $(MAKE) stands for
  // What commands that are run while reading may write to (Command::writable); empty: they are not confined further.
  std::vector<std::string> writable;
};

// Takes the words behind the program's name apart; `environment` gives MAKEFLAGS and MAKELEVEL. Errors: an option that
// the standard does not have and callers do not commonly use (Exit::usage).
[[nodiscard]] Result<Call> parse_call(const std::vector<std::string>& words,
                                      const std::map<std::string, std::string>& environment, const std::string& folder);

// The value of MAKEFLAGS for the makes that this one calls.
[[nodiscard]] std::string flags_text(const Call& call);

}  // namespace coctilis::describe::makefile
