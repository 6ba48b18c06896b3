// The reader of trees in Go: go.mod, or go.work with several of them.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::go {

[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::go
