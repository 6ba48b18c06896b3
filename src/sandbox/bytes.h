// The small program through which others are started (sandbox/entry.cpp), to be run from memory.
#pragma once

#include <string_view>

namespace coctilis::sandbox {
[[nodiscard]] std::string_view program_bytes();
}  // namespace coctilis::sandbox
