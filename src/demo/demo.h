// Writes the demo trees: files that come inside the program, as git repositories.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::demo {

struct Tree {
  std::string name;
  std::string shows;  // in a few words
};
// The first is the one that is meant without a name.
[[nodiscard]] const std::vector<Tree>& trees();

// Writes the tree `name` into `folder`, which must be absent or empty, and returns its absolute path. A submodule is a
// repository of its own, kept in `folder`/.git like any other; nothing is fetched from anywhere. Errors: there is no
// such tree, or the folder is not empty (Exit::usage), or it cannot be written (Exit::kiln).
[[nodiscard]] Result<std::string> write_tree(const std::string& name, const std::string& folder);

}  // namespace coctilis::demo
