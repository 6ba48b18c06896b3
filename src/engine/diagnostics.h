// Finds the messages of compilers and linkers in what they print.
#pragma once

#include <string>
#include <vector>

#include "model/outcome.h"

namespace coctilis::engine {

// "FILE:LINE:COLUMN: warning: TEXT [-Woption]" and its kin, in the order they come. Colours are taken off first.
[[nodiscard]] std::vector<model::Diagnostic> find_diagnostics(const std::string& output, std::size_t step);

// The part of the output that belongs to the first error: from the line that leads to it (in file included from ...,
// in function ...) up to the next message. All of it when there is none.
[[nodiscard]] std::string first_error(const std::string& output);

}  // namespace coctilis::engine
