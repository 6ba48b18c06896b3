// The reader of makefiles.
#pragma once

#include "base/result.h"
#include "describe/makefile/make.h"
#include "locate/locator.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe::makefile {

// Reads the makefile at `file` (absolute, in the tree) in a mirror of the tree at `work`. Writes there only. Errors:
// what is not understood (Exit::description), a makefile that cannot be made (Exit::step).
[[nodiscard]] Result<model::Project> read(const std::string& file, const model::Survey& survey,
                                          locate::Locator& locator, const std::string& work);

// The same for a makefile that is in the mirror already: `file` is relative to it. `environment` is added to that of
// this program.
[[nodiscard]] Result<model::Project> read_in_mirror(const std::string& file, const model::Survey& survey,
                                                    locate::Locator& locator, const std::string& work,
                                                    const std::map<std::string, std::string>& environment);

}  // namespace coctilis::describe::makefile
