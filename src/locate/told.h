// What programs tell that come with a library: how to compile and link with it.
#pragma once

#include <string>
#include <vector>

#include "model/requirement.h"

namespace coctilis::locate {

// Words of flags, sorted by what they are for. Anything that is no flag is a message: then the program told nothing.
struct ToldFlags {
  std::vector<std::string> include_folders;
  std::vector<std::string> definitions;  // without -D
  std::vector<std::string> options;
  std::vector<std::string> link_folders;
  std::vector<std::string> items;
  bool good = true;
};
[[nodiscard]] ToldFlags sorted_flags(const std::string& told);

}  // namespace coctilis::locate
