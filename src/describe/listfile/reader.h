// The reader of CMakeLists.txt.
#pragma once

#include "base/result.h"
#include "describe/listfile/limits.h"
#include "describe/readers.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe::listfile {

// Reads the description at `file` (absolute). Writes configured files below `work`, nothing else. Errors: what is not
// understood (Exit::description). Missing requirements are findings of the project, not errors.
[[nodiscard]] Result<model::Project> read(const std::string& file, const model::Survey& survey,
                                          locate::Locator& locator, const std::string& work,
                                          const Services& services = {}, const Limits& limits = {});

// The line of the table of readers.
[[nodiscard]] Reader reader();

// Runs a file of the language as a script: a step of a plan that the description asked for. Only
// `output_root` is written to, and `tree` where it is a copy in the same kiln. Gives the lines it says. Errors: as when
// reading.
[[nodiscard]] Result<std::vector<std::string>> run_script(const std::string& file, const std::string& folder,
                                                          const std::vector<std::string>& definitions,
                                                          const std::vector<std::string>& arguments,
                                                          const std::string& tree, const std::string& output_root);

}  // namespace coctilis::describe::listfile
