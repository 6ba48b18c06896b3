// Programs that were installed start from any folder, without a setting of their user's.
#pragma once

#include "base/result.h"
#include "model/outcome.h"

namespace coctilis::stage {

// An installed program that does not find a shared library which was installed with it goes to PREFIX/libexec, and in
// its place comes a script that names the library's folder and starts it (staged.starters); the script counts from
// where it lies, so that the prefix may be moved. Programs that find all, and what leads out of the prefix, stay as
// they are. Errors: a place that cannot be written (Exit::kiln).
[[nodiscard]] Result<bool> add_starters(model::Staged& staged);

}  // namespace coctilis::stage
