// The reader of trees in Go: go.mod, or go.work with several of them.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::go {

[[nodiscard]] Reader reader();

// A tree without a description whose sources are Go: one module, whose path is that by which its packages import each
// other. Errors as for modules.
[[nodiscard]] Result<model::Project> read_sources(const ReadRequest& request);

}  // namespace coctilis::describe::go
