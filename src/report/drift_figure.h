// How a number that a check reads went over the runs, as a figure of the report.
#pragma once

#include <string>

#include "model/outcome.h"

namespace coctilis::report {

// An SVG figure with axes, the recorded value as a broken line, and under it a sentence that says what there is to see.
// A sentence alone where there are less than two runs with a finite value. HTML.
[[nodiscard]] std::string drift_figure(const model::CheckNumber& number);

}  // namespace coctilis::report
