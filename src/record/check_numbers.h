// The numbers that checks have read in the runs in which they passed, kept in the kiln: a run shows what they were, and
// how they drift.
#pragma once

#include "model/run.h"

namespace coctilis::record {

// Puts what was kept into the numbers of the run's checks, and keeps those of checks that passed (KILN/numbers.json,
// the last 200 of each). A file that cannot be read counts as none.
void compare_check_numbers(model::Run& run);

}  // namespace coctilis::record
