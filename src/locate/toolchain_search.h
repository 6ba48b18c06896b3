// Where compilers may be: the first half of finding tool chains. For toolchain.cpp.
#pragma once

#include <string>
#include <vector>

namespace coctilis::locate {

// Compilers that belong together by their names.
struct CompilerSet {
  std::string c;  // absolute paths; empty when there is none
  std::string cxx;
  std::string fortran;
  std::string triplet;  // what stands before the name: "aarch64-linux-gnu-"
  std::string family;   // by the name only: what it really is, it says itself
  std::string suffix;   // "-12"
  std::string origin;   // "by CC", "in the prefix /opt/x", "on PATH"
  [[nodiscard]] const std::string& any() const { return !c.empty() ? c : !cxx.empty() ? cxx : fortran; }
};

// Folders on PATH, each once.
[[nodiscard]] std::vector<std::string> path_folders();

// Those that CC, CXX and FC name, then those in bin/ of the prefixes, then those on PATH; plain names before versions,
// this machine's before those with a triplet, newer before older.
[[nodiscard]] std::vector<CompilerSet> compiler_sets(const std::vector<std::string>& prefixes);

}  // namespace coctilis::locate
