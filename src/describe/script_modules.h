// Scripts that say how a tree is built by calling a module of their language (Makefile.PL, setup.py) are run with one
// of ours in its place; here is what their readers share.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

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

// A module of its own language that a script said it asked for ("checking for module NAME... ANSWER").
struct AskedModule {
  std::string name;
  std::string answer;  // "yes", "no", or what is wrong with it
};
[[nodiscard]] std::vector<AskedModule> asked_modules(const std::string& output);

// Keeps what a script lacks, and throws Fault (Exit::missing).
[[noreturn]] void lacks(model::Finding finding, const std::string& script, const ReadRequest& request);

// A script that describes a tree by calling one of ours.
struct DescribingScript {
  std::string name;  // from the tree
  std::string interpreter;
  std::map<std::string, std::string> environment;                                 // beside that of the request
  const char* makefile = nullptr;                                                 // what it writes, in its own folder
  std::function<void(const std::string& output)> said;                            // keeps findings of what it printed
  std::function<void(const Problem& problem, const std::string& output)> failed;  // throws Fault
};
// Runs it in a mirror of the tree and reads the makefile that it writes. Throws Fault (Exit::description) where it
// writes none, and those of `failed` and of the reader of makefiles.
[[nodiscard]] model::Project read_by_script(const DescribingScript& script, const ReadRequest& request);

// A variable of the environment; empty when there is none.
[[nodiscard]] std::string users_variable(const char* name);

}  // namespace coctilis::describe
