// Checks of a kind that can run while others do.
#pragma once

#include <vector>

#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

// Runs all of them, as many at once as the request has jobs, the longest first. Many trees have tests that hang on the
// order in which they stand, and say nothing of it: where one fails all the same, all are made once more, one after the
// other as they are declared, and that counts. Where that shows them to disturb each other, they are not run side by
// side again. The results are in the order of `all`.
[[nodiscard]] std::vector<model::Check> run_side_by_side(const Kind& kind, const Context& context,
                                                         const std::vector<PlannedCheck>& all, Runner& runner);

}  // namespace coctilis::smoke
