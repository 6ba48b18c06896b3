// A small program that uses a library as its users will: compiled and linked against what was installed, and run.
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

// A library that the tree installs, and where users find it.
struct InstalledLibrary {
  const model::PlannedTarget* target = nullptr;
  std::string file;    // in the prefix, absolute
  std::string prefix;  // that all was installed into
  std::string name;    // as after -l
  bool is_shared = false;
};

// The libraries of the plan that lie in the prefix, in the order of the plan.
[[nodiscard]] std::vector<InstalledLibrary> installed_libraries(const model::Plan& plan, const std::string& prefix);

// What came of it, and all files that it hangs on.
struct ClientSeen {
  Judgement judgement;
  std::vector<std::string>
      remarks;  // headers that cannot be included alone, each with its first error, and what is wrong with the .pc file
  std::string command;  // the last that was run
  std::string output;
  std::vector<std::string> files;
  bool watched = true;  // `files` is all of them
};

// Each of the library's headers is included by itself (the first 60, those that bear its name first); then a program
// that includes those that can be, and takes the addresses of functions that they name, is linked and run. First by the
// .pc file that was installed for the library, where there is one, with all that it requires (from `prefixes`, the
// user's own, and the system); where that does not do, which is a remark, by what the library itself was compiled with.
// It fails when no header, or the one that bears the library's name, can be included even behind the usual headers of
// the language; when a symbol that a shared library uses is nowhere defined, and no program that was installed with it
// defines it for the library; when the program does not start. `jobs`:
// how many compilers run at once.
[[nodiscard]] ClientSeen try_client(const InstalledLibrary& library, const model::Toolchain& toolchain, Runner& runner,
                                    const std::vector<std::string>& prefixes, unsigned jobs);

}  // namespace coctilis::smoke
