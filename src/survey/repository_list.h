// Lists of repositories that belong to a tree: *.repos in its top folder, a YAML 1.2 document
//   repositories:
//     NAME: {type: git, url: URL, version: REVISION}
// where NAME is the folder, relative to the tree, that the repository goes to.
#pragma once

#include <string>

#include "base/result.h"
#include "model/settings.h"

namespace coctilis::survey {

// Adds what the lists of the tree name to the sources of `settings`; one that is there by its name or folder stays as
// it is. Errors: no YAML, or something in it that cannot be followed (Exit::description, with the line).
[[nodiscard]] Result<bool> read_repository_lists(const std::string& tree, model::Settings& settings);

}  // namespace coctilis::survey
