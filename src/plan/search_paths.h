// Where compilers look for headers, by their command lines.
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"

namespace coctilis::plan {

// The search path of a compiler that is called with `argv` in `folder` (absolute); `own`: the folders that it searches
// by itself, in order (GCC, "Options for Directory Search").
[[nodiscard]] model::SearchPath search_path_of(const std::vector<std::string>& argv, const std::string& folder,
                                               const std::vector<std::string>& own);

}  // namespace coctilis::plan
