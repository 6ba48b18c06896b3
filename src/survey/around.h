// Which tree a folder is a part of, for commands that are given in a folder somewhere inside one.
#pragma once

#include <string>

#include "survey/descriptions.h"

namespace coctilis::survey {

// The top folder of the tree that holds `folder` (absolute): the outermost one above it, up to the top of its
// repository and below the user's home, that has a coctilis.toml or a kiln, is the top of the repository and has a
// description, or has a description that names the folder below it. `folder` itself when there is none.
[[nodiscard]] std::string tree_around(const std::string& folder, const DescriptionFormats& formats);

// Whether a folder looks like the top of a tree: it has a coctilis.toml, a kiln or a description
// that can be read, or sources, also one folder down.
[[nodiscard]] bool looks_like_a_tree(const std::string& folder, const DescriptionFormats& formats);

}  // namespace coctilis::survey
