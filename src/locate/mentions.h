// Prerequisites that a tree's own documents name: packages in install commands, and tools and libraries under headings
// that speak of requirements. Documents go stale, so they only add to what the description asks for.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "locate/packages.h"
#include "model/requirement.h"

namespace coctilis::locate {

// Reads README, INSTALL and the like in the top folder and in doc/ and docs/ of the tree, recipes of containers and the
// files of continuous integration, and gives what none of `findings` is about, each once, with the place where it
// stands. `passed_over` tells of a program or a package that it is not to be named.
[[nodiscard]] std::vector<model::Mention> mentions(const std::string& tree, const std::vector<model::Finding>& findings,
                                                   Packages& packages,
                                                   const std::function<bool(const std::string&)>& passed_over);

}  // namespace coctilis::locate
