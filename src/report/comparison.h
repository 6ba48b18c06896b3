// Trees side by side, for sizing one up against others that are known.
#pragma once

#include <string>
#include <vector>

#include "model/survey.h"

namespace coctilis::report {

// A table with a column for each tree: files, size, lines of code by language (at most `most` languages, those with the
// most code over all trees) and together, comment, entry points, and how much of the first tree's code the others have.
// The first row has the trees' names, the first column what a row is about.
[[nodiscard]] std::vector<std::vector<std::string>> trees_table(const std::vector<model::Survey>& trees,
                                                                std::size_t most = 12);

}  // namespace coctilis::report
