// Installs what the description installs into a prefix.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/plan.h"
#include "model/run.h"

namespace coctilis::stage {

// Installs plan.install below `prefix` (absolute; made when it is not there). Everything that the items need must have
// been built. Each file is written beside its place and put there by a rename; what is the same already stays. Programs
// and libraries whose run path is another once they are installed are linked anew. Items for places outside of the
// prefix are not installed, but listed. Errors: a source that is not there and not optional (Exit::step), a place that
// cannot be written (Exit::kiln), a place that leaves the prefix by ".." (Exit::description), a link that fails
// (Exit::step). What was written until then stays.
[[nodiscard]] Result<model::Staged> install(const model::Plan& plan, const std::string& prefix);

}  // namespace coctilis::stage
