// The submodules of a git repository (gitmodules(5)) and whether they are there.
#pragma once

#include <string>
#include <vector>

#include "model/survey.h"

namespace coctilis::survey {

// Reads `tree`/.gitmodules and compares each entry with the repository. Entries whose path leaves the tree are left out
// and reported as hazards. Never runs git.
[[nodiscard]] std::vector<model::Submodule> read_submodules(const std::string& tree,
                                                            std::vector<model::Hazard>& hazards);

// Sets libgit2 up, once for the life of the program.
void use_git_library();

// The revision that HEAD of the repository at `folder` names, as 40 digits; empty when there is none.
[[nodiscard]] std::string repository_revision(const std::string& folder);

}  // namespace coctilis::survey
