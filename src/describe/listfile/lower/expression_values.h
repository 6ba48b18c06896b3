// Expressions that work on values alone: $<LIST:...>, $<PATH:...> and $<FILTER:...>.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace coctilis::describe::listfile::lower {

// $<LIST:operation,list,...>: `args` are the words behind the operation, evaluated. Nothing when the operation is not
// known, or its words do not fit.
[[nodiscard]] std::optional<std::string> list_expression(const std::string& operation,
                                                         const std::vector<std::string>& args);
// $<PATH:operation,...>: the same. "1" and "0" answer questions.
[[nodiscard]] std::optional<std::string> path_expression(const std::string& operation, std::vector<std::string> args);

}  // namespace coctilis::describe::listfile::lower
