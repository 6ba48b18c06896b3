// Runs of one tree in several variants, side by side.
#pragma once

#include <string>
#include <vector>

#include "model/run.h"

namespace coctilis::report {

// A table with a column for each run: what became of it, how long its steps took, how large each program and library is
// (bytes of the file, links followed), and the checks. The first row has the variants' names, the first column what a
// row is about. At most `most` programs and libraries, the largest first.
[[nodiscard]] std::vector<std::vector<std::string>> variants_table(const std::vector<model::Run>& runs,
                                                                   std::size_t most = 20);

}  // namespace coctilis::report
