// Answers "why" for what is no thing of the description itself: headers, definitions, options of compilers, compilers,
// libraries of the system, and steps by their number.
#pragma once

#include <string>
#include <vector>

#include "report/explain.h"

namespace coctilis::report {

// What the last run of each step of a plan found that it reads (its dependency file), absolute.
using FoundInputs = std::vector<std::vector<std::string>>;
[[nodiscard]] FoundInputs found_inputs(const model::Plan& plan);

[[nodiscard]] std::vector<Explanation> explain_details(const model::Run& run, const std::string& subject,
                                                       const FoundInputs& found);

// Names that these know, for who mistypes one.
[[nodiscard]] std::vector<std::string> known_details(const model::Run& run);

}  // namespace coctilis::report
