// A copy of the tree in the kiln, for descriptions that build inside the tree. It is kept in step with the tree by
// content: what the build writes there stays until the tree has something else.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::describe {

struct Mirrored {
  std::size_t files = 0;
  std::size_t copied = 0;   // new or changed since the last time
  std::size_t removed = 0;  // gone from the tree
};

// Brings `to` (absolute) in step with `tree` (absolute). Repositories' own data, kilns, and objects that lie beside
// their sources (left by a build inside the tree) are not taken over. Times are those of the tree, but for files that a
// release ships ready made (configure, Makefile.in, what yacc and lex write, manuals): those count as newer than what
// they are made from, when they are copied. Errors: `to` cannot be written (Exit::kiln).
[[nodiscard]] Result<Mirrored> mirror(const std::string& tree, const std::string& to);

// Paths of all files that a mirror has from its tree, relative, sorted.
[[nodiscard]] std::vector<std::string> mirrored_files(const std::string& to);

// Files below a mirror that did not come from the tree, or are not as they came: what a build made. Absolute.
[[nodiscard]] std::vector<std::string> made_in_mirror(const std::string& to);

}  // namespace coctilis::describe
