// Checks that fail for want of something that is not to be had here, as they say themselves. A new excuse is an entry
// in the table of excuses.cpp.
#pragma once

#include <string>

namespace coctilis::smoke {

// What a failed check says it lacks, as a reason to skip it; empty when its output has none of the known excuses.
[[nodiscard]] std::string excuse_in(const std::string& output);

// The excuse of a program that wants a display.
inline constexpr const char* wants_display = "it wants a display, and there is none";

// Whether programs can draw somewhere.
[[nodiscard]] bool has_display();

}  // namespace coctilis::smoke
