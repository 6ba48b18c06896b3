// Where compilers may be: the first half of finding tool chains. For toolchain.cpp.
#pragma once

#include <map>
#include <string>
#include <vector>

namespace coctilis::locate {

// Compilers that belong together by their names.
struct CompilerSet {
  std::map<std::string, std::string> paths;  // by language, absolute
  std::string triplet;                       // what stands before the name: "aarch64-linux-gnu-"
  std::string family;                        // by the name only: what it really is, it says itself
  std::string suffix;                        // "-12"
  std::string origin;                        // "by CC", "in the prefix /opt/x", "on PATH"
  // That of the first language; empty when there is none at all.
  [[nodiscard]] std::string any() const { return paths.empty() ? std::string{} : paths.begin()->second; }
  [[nodiscard]] std::string path(const std::string& language) const {
    const auto it = paths.find(language);
    return it == paths.end() ? std::string{} : it->second;
  }
};

// Folders on PATH, each once.
[[nodiscard]] std::vector<std::string> path_folders();

// Those that CC, CXX and FC name, then those in bin/ of the prefixes, then those on PATH; plain names before versions,
// this machine's before those with a triplet, newer before older.
[[nodiscard]] std::vector<CompilerSet> compiler_sets(const std::vector<std::string>& prefixes);

}  // namespace coctilis::locate
