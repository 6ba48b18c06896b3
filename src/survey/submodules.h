// The submodules of a git repository (gitmodules(5)), nested ones too, and the repositories that coctilis.toml names:
// are they there, and at which revision?
#pragma once

#include <string>
#include <vector>

#include "model/settings.h"
#include "model/survey.h"
#include "survey/git_library.h"

namespace coctilis::survey {

// Reads `tree`/.gitmodules and that of every submodule that is there, and compares each entry with the repository that
// pins it; then every [[source]]. Entries whose path leaves the tree, or passes a link, are left out and reported as
// hazards. Starts no program.
[[nodiscard]] std::vector<model::Submodule> read_submodules(const std::string& tree, const model::Settings& settings,
                                                            std::vector<model::Hazard>& hazards);

// The entries of one .gitmodules file, by path relative to `within` (relative to `tree`, or empty); state and revisions
// as the repository there has them.
[[nodiscard]] std::vector<model::Submodule> submodules_of(const std::string& tree, const std::string& within,
                                                          std::vector<model::Hazard>& hazards);

// True when `path` (relative) stays below `tree` and no folder on the way is a link.
[[nodiscard]] bool stays_inside(const std::string& tree, const std::string& path);

// Sets libgit2 up, once for the life of the program.
void use_git_library();

using Repository = GitHandle<git_repository>;

// The repository whose working folder is exactly `folder`; nothing when there is none.
[[nodiscard]] Repository open_repository(const std::string& folder);
// The revision that HEAD names, as 40 digits; empty when there is none.
[[nodiscard]] std::string head_of(git_repository* repository);
[[nodiscard]] std::string repository_revision(const std::string& folder);
// The full revision that a name (digits, tag or branch) has in a repository; empty when it has none.
[[nodiscard]] std::string resolve_revision(git_repository* repository, const std::string& name);
// True when files under version control differ from HEAD. Files that are not under version control do not count.
[[nodiscard]] bool has_changes(git_repository* repository);
// Nothing but perhaps a .git entry is in the folder, or it is not there.
[[nodiscard]] bool is_empty_folder(const std::string& path);

}  // namespace coctilis::survey
