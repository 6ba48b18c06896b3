// What was located, kept in the kiln from one run to the next, so that a run can tell what is different.
#pragma once

#include "model/run.h"

namespace coctilis::record {

// Compares the findings of the run with those of the run before in the same kiln (KILN/wants.json), fills `run.changes`
// and `run.compared`, and keeps the new ones in place of the old. A file that cannot be read counts as none.
void compare_findings(model::Run& run);

}  // namespace coctilis::record
