// Names that descriptions have for each other: by which one asks for something, and under which another gives it.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace coctilis::survey {

// What one description says of names. Filled by the reader of its format (`DescriptionFormat::names`).
struct Names {
  struct Asked {
    std::string name;
    std::string constraint;  // ">= 2.1"; empty: any version
    int line = 0;
  };
  std::string version;             // of what it describes; empty: it does not say
  std::vector<std::string> given;  // of the whole, of its libraries, packages and programs
  std::vector<Asked> asked;        // of packages, *.pc modules, libraries and programs
};

// For formats whose text is commands or close to it: libraries that are linked (-lNAME), *.pc modules that are asked
// for in a line with --cflags, --libs or --exists, or by a PKG_CHECK_MODULES; archives and shared libraries that are
// named.
void names_in_commands(std::string_view text, Names& names);
// Of a *.pc file or a template of one: what its Requires lines ask for.
void names_in_pc_file(std::string_view text, Names& names);

}  // namespace coctilis::survey
