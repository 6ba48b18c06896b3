// The tests that a description declares, with their expressions worked out.
#pragma once

#include <vector>

#include "model/plan.h"
#include "plan/artifacts.h"
#include "plan/expression.h"

namespace coctilis::plan {

// Tests of other configurations, and those without a command, are left out.
[[nodiscard]] std::vector<model::PlannedTest> plan_tests(const model::Project& project, const Artifacts& artifacts,
                                                         const Expressions& expressions);

}  // namespace coctilis::plan
