// Prerequisites that a tree's own documents name: packages in install commands, and tools and libraries under headings
// that speak of requirements. Documents go stale, so they only add to what the description asks for.
#pragma once

#include <string>
#include <vector>

#include "locate/packages.h"
#include "model/want.h"

namespace coctilis::locate {

// Reads README, INSTALL and the like in the top folder and in doc/ and docs/ of the tree, and gives what none of
// `findings` is about, each once, with the place where it stands.
[[nodiscard]] std::vector<model::Mention> mentions(const std::string& tree, const std::vector<model::Finding>& findings,
                                                   Packages& packages);

}  // namespace coctilis::locate
