// The reader of CMakeLists.txt.
#pragma once

#include "base/result.h"
#include "locate/locator.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe::listfile {

// Reads the description at `file` (absolute). Writes configured files below `work`, nothing else. Errors: what is not
// understood (Exit::description). Missing wants are findings of the project, not errors.
[[nodiscard]] Result<model::Project> read(const std::string& file, const model::Survey& survey,
                                          locate::Locator& locator, const std::string& work);

}  // namespace coctilis::describe::listfile
