// Scripts that say how a tree is built by calling a module of their language (Makefile.PL, setup.py) are run with one
// of ours in its place; here is what their readers share.
#pragma once

#include <string>

#include "describe/readers.h"

namespace coctilis::describe {

// Puts the files of data/`folder` into a folder beside the mirror `work`, which no tree has a name in, and returns its
// path. It is called by what is in it, so that a script runs again with others. Throws Fault (Exit::kiln).
[[nodiscard]] std::string put_script_modules(const std::string& folder, const std::string& work);

// The program that runs such scripts, the first of that name; kept as a finding. Throws Fault (Exit::missing).
[[nodiscard]] std::string script_interpreter(const std::string& name, const std::string& script,
                                             const ReadRequest& request);

// A module of a script's language that it asked for. `package`: what has it, if there is such a package; `reason`: why
// it is not `found`. `how`: "module of Perl" and the like.
[[nodiscard]] model::Finding module_finding(const std::string& module, const std::string& script, const char* how,
                                            bool found, const std::string& reason, const std::string& package,
                                            const ReadRequest& request);

// Keeps what a script lacks, and throws Fault (Exit::missing).
[[noreturn]] void lacks(model::Finding finding, const std::string& script, const ReadRequest& request);

// A variable of the environment; empty when there is none.
[[nodiscard]] std::string users_variable(const char* name);

}  // namespace coctilis::describe
