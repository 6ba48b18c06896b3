// Submodules and asked-for sources that are empty or stand elsewhere: which of them a bring-up needs.
#pragma once

#include <string>

#include "model/run.h"

namespace coctilis::pipeline {

// Whether there is an empty one of which it is known what belongs there.
[[nodiscard]] bool can_be_filled(const model::Run& run);
// The command that the user gives for it.
[[nodiscard]] std::string fill_command(const model::Run& run);
// Puts them among the findings: required when the tree's description wants something out of them.
void add_submodule_requirements(model::Run& run);

}  // namespace coctilis::pipeline
