// The reader of makefiles.
#pragma once

#include "base/result.h"
#include "describe/makefile/make.h"
#include "describe/readers.h"
#include "model/project.h"

namespace coctilis::describe::makefile {

// Reads the makefile `request.file` in a mirror of the tree at `request.work`. Writes there only. Errors: what is not
// understood (Exit::description), a makefile that cannot be made (Exit::step).
[[nodiscard]] Result<model::Project> read(const ReadRequest& request);

// The line of the table of readers.
[[nodiscard]] Reader reader();

// The same for a makefile that is in the mirror already: `file` is relative to it. `environment` is added to that of
// this program.
[[nodiscard]] Result<model::Project> read_in_mirror(const std::string& file, const ReadRequest& request,
                                                    const std::map<std::string, std::string>& environment);

}  // namespace coctilis::describe::makefile
