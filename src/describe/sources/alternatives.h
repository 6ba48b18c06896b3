// Folders of a tree that exclude each other: they lie side by side, and what the rest of the tree takes from one of
// them it could take from another, under the same name.
#pragma once

#include <string>
#include <vector>

#include "describe/sources/outside.h"
#include "describe/sources/tree.h"
#include "model/project.h"
#include "model/settings.h"

namespace coctilis::describe::sources {

struct Alternatives {
  std::vector<std::string> folders;  // relative; sorted
  std::string shared;                // what they all have: "the module driver", "field_size.inc"
};

// Those of Fortran: modules that sources of several folders define and sources outside of these use, and files that are
// included from outside and lie in several, equally near.
[[nodiscard]] std::vector<Alternatives> alternatives_in(Tree& tree);

// Takes one of each: the one that [tree] choose names, else the only one whose modules are all here. The others are
// left out of the tree; what is returned says so. Throws Fault: several could be taken (Exit::description), or `choose`
// names a folder that excludes no other (Exit::usage).
[[nodiscard]] std::vector<model::LeftOut> choose_among_alternatives(Tree& tree, Outside& outside,
                                                                    const model::Settings& settings);

}  // namespace coctilis::describe::sources
