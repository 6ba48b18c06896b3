// Finished programs and libraries as users find them: the entries of bin/ and lib/ in the kiln.
#pragma once

#include <optional>

#include "base/result.h"
#include "model/run.h"

namespace coctilis::pipeline {

// Puts links to what was made there, takes away links to what is gone, and writes a starter in place of the link for a
// program that would not find the shared libraries that were built with it: PlannedTarget::starter names it. Throws
// Fault (Exit::kiln).
void show_results(model::Run& run);

// Why a build in which nothing failed is none all the same: all that the description compiles or links failed, and it
// says that this does not matter. Nothing when there is something.
[[nodiscard]] std::optional<Problem> nothing_was_built(const model::Run& run);

}  // namespace coctilis::pipeline
