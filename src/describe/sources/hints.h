// What a tree says of itself beside its sources: the libraries that it is there for.
#pragma once

#include <string>
#include <vector>

#include "describe/sources/grouping.h"
#include "describe/sources/tree.h"

namespace coctilis::describe::sources {

// From the templates of .pc files that come with the tree, else from its documents and headers, where these speak of a
// library whose name goes with that of the tree.
[[nodiscard]] std::vector<LibraryHint> library_hints(const Tree& tree, const std::string& tree_name);

// The headers that users of the tree's library include: those in folders for that, else those beside the sources of the
// library (`sources`, relative) that are not called private or internal; relative.
[[nodiscard]] std::vector<std::string> public_headers(const Tree& tree, const std::vector<std::string>& sources);

}  // namespace coctilis::describe::sources
