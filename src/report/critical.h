// Which steps the end of a build waited for.
#pragma once

#include <vector>

#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::report {

// Parallel to Plan::steps: from the step that ended last back over the one of those that it needs that ended last, and
// so on. All false where nothing ran.
[[nodiscard]] std::vector<bool> critical_steps(const model::Plan& plan, const model::Outcome& outcome);

}  // namespace coctilis::report
