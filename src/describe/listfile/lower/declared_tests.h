// The tests that a description declares, with their expressions worked out.
#pragma once

#include <vector>

#include "describe/listfile/lower/artifacts.h"
#include "describe/listfile/lower/expression.h"
#include "model/build.h"

namespace coctilis::describe::listfile::lower {

// Tests of other configurations, and those without a command, are left out. `output_root` (absolute): the folder that
// the description's own operations may write to.
[[nodiscard]] std::vector<model::TestCase> lower_tests(const Declared& project, const Artifacts& artifacts,
                                                       const Expressions& expressions, const std::string& output_root);

}  // namespace coctilis::describe::listfile::lower
