// go.mod, go.work and vendor/modules.txt.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::go {

struct Required {
  std::string version;
  Place place;
};
struct Replaced {
  std::string path;     // another module, or a folder that begins with . or /
  std::string version;  // of another module
  Place place;
};

struct ModuleFile {
  std::string path;  // of the module; empty in go.work
  int minor = 0;     // release 1.N of the language; 0: not said
  Place go_place;
  std::map<std::string, Required> requires_;
  std::map<std::string, Replaced> replaces;         // by the module's path
  std::vector<std::pair<std::string, Place>> uses;  // folders, of go.work
};

// Reads one of the two. `shown`: how messages call it. Throws Fault (Exit::description) with file and line for what is
// no line of such a file.
[[nodiscard]] ModuleFile read_module_file(std::string_view text, const std::string& shown);

// A path as it stands in folders of the module cache: capital letters as "!" and the small one.
[[nodiscard]] std::string escaped_path(const std::string& path);

}  // namespace coctilis::describe::go
