// Operations that steps of languages, and those after linking, do in this program; those on files alone are in
// base/file_operations.h. Descriptions cannot ask for them.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace coctilis::plan {

// Gets the words behind its name, the only folder that it may write to, and where it says what went wrong. Gives an
// exit code. May throw Fault.
using StepOperation = int (*)(const std::vector<std::string>& words, const std::string& root, std::string& output);

// Whether an operation may write the file `path`: it lies below `root`, whatever links lie on the way, and is none itself
// (commands of the tree write there as well, and may have put one in its place). Says in `output` that it may not.
[[nodiscard]] bool may_write(const std::string& path, const std::string& root, std::string& output);

// The operation of that name; nullptr when there is none.
[[nodiscard]] StepOperation step_operation(std::string_view name);

}  // namespace coctilis::plan
