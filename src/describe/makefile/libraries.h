// What the link commands of a makefile want from outside: the libraries that they name by -l.
#pragma once

#include <string>
#include <vector>

#include "locate/locator.h"
#include "model/project.h"

namespace coctilis::describe::makefile {

// Keeps a finding for each library that the link commands in `recipes` name, but for those of the tool chain itself
// (POSIX.1-2024, XCU c17, "Standard Libraries") and those that the tree makes. Where a command also looks in folders of
// the tree (below `work`), a library that is not found is left to the linker: the tree may make it by then.
void keep_libraries(const std::vector<model::Recipe>& recipes, const std::string& work, locate::Locator& locator);

}  // namespace coctilis::describe::makefile
