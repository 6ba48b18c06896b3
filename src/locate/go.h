// Distributions of Go on this machine, and the one that a tree is built with.
#pragma once

#include <string>
#include <vector>

#include "model/requirement.h"

namespace coctilis::locate {

struct GoKit {
  std::string folder;     // absolute, links followed: what programs of it call GOROOT
  std::string version;    // "1.19.8"
  int minor = 0;          // 19 of 1.19.8
  std::string tools;      // absolute: the folder of compile, asm, link, cgo and pack
  std::string packages;   // absolute: the folder of the standard library's compiled packages
  std::string system;     // "linux"
  std::string processor;  // "amd64"
  std::string origin;
};

// Those of GOROOT, the prefixes, PATH, and the folders where systems keep them, in this order, each once. Ones without
// a compiler for this machine do not count.
[[nodiscard]] std::vector<GoKit> go_kits(const std::vector<std::string>& prefixes);

// The first kit that knows release 1.`minor` of the language (0: any) and has the standard library compiled, as those
// up to 1.19 do; what is found, or missing, is told.
struct GoChoice {
  GoKit kit;
  model::Finding finding;
  std::string note;  // that an older one than wanted is taken, as none else is here; or empty
};
[[nodiscard]] GoChoice choose_go(const std::vector<GoKit>& kits, int minor, const Place& place);

}  // namespace coctilis::locate
