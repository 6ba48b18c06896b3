// What a target links that is neither the tree's nor its kiln's.
#pragma once

#include <string>
#include <vector>

#include "model/run.h"

namespace coctilis::report {

// Absolute paths, in link order, each once; what is given as "-lNAME" is looked for where the linker does, and stays as
// it is when it is nowhere.
[[nodiscard]] std::vector<std::string> system_libraries_of(const model::PlannedTarget& target, const model::Run& run);

}  // namespace coctilis::report
