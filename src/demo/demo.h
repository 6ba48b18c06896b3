// Writes the demo tree: files that come inside the program, as a git repository with a submodule.
#pragma once

#include <string>

#include "base/result.h"

namespace coctilis::demo {

// Writes the tree into `folder`, which must be absent or empty, and returns its absolute path. The submodule is a
// repository of its own, kept in `folder`/.git like any other; nothing is fetched from anywhere. Errors: the folder is
// not empty (Exit::usage) or cannot be written (Exit::kiln).
[[nodiscard]] Result<std::string> write_tree(const std::string& folder);

}  // namespace coctilis::demo
