// Explains why a step failed and what mends it. A new failure is an entry in the table of failures.cpp.
#pragma once

#include <string>
#include <vector>

#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::doctor {

// What is known of the failed step, in order of certainty; empty when nothing is recognised.
[[nodiscard]] std::vector<model::Diagnosis> diagnose(const model::Plan& plan, const model::Step& step,
                                                     const model::StepResult& result);

}  // namespace coctilis::doctor
