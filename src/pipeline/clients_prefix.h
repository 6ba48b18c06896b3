// The tree as it is installed in its kiln, where small clients find its libraries as users will.
#pragma once

#include <string>

#include "model/run.h"

namespace coctilis::pipeline {

// The prefix in the kiln in which clients of the tree's libraries find these; empty: it installs none. Of makefiles and
// scripts only once they have been run.
[[nodiscard]] std::string prefix_of_clients(const model::Run& run);

// Whether that prefix in `kiln` is what installing by this plan would make of it: installed by the same plan, of the
// same files, and untouched since. True also where the plan installs no library. Looks at stamps only.
[[nodiscard]] bool is_installed_for_clients(const model::Plan& plan, const std::string& kiln);

// Installs the tree there, where it is not installed already. `run` has its plan with all steps, or repeats a run (then
// nothing is to be done). Gives why it cannot be installed; empty: it is.
[[nodiscard]] std::string install_for_clients(const model::Run& run);

}  // namespace coctilis::pipeline
