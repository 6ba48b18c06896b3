// The reader of trees that say nothing: what is built, and of what, is found out from the sources. They are compiled on
// trial, and what their objects define and want tells what belongs together.
#pragma once

#include <string>

#include "base/result.h"
#include "describe/readers.h"
#include "model/project.h"

namespace coctilis::describe::sources {

// What stands for a description where there is none, also under [tree] of coctilis.toml.
inline constexpr const char* description_name = "sources";

// Errors: nothing to build, or nothing that compiles (Exit::description); a target of coctilis.toml that is wrong
// (Exit::usage). Headers that are missing are findings. Writes headers that are generated below `request.work`.
[[nodiscard]] Result<model::Project> read(const ReadRequest& request);

// The line of the table of readers.
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::sources
