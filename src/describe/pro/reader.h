// The reader of project files (*.pro) with all that they include and name below them.
#pragma once

#include "base/result.h"
#include "describe/readers.h"
#include "model/project.h"

namespace coctilis::describe::pro {

// Errors: what is not balanced, missing or refused by the project itself, with its place (Exit::description). What is
// missing outside is findings. Files that the project writes while it is read go below `request.work`.
[[nodiscard]] Result<model::Project> read(const ReadRequest& request);

// The line of the table of readers.
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::pro
