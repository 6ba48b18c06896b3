// Lines that programs with windows print on a machine without a screen, a sound card or a session, and that mean
// nothing.
#pragma once

#include <string>
#include <vector>

namespace coctilis::smoke {

// Their patterns (RE2), from data/harmless_lines.toml.
[[nodiscard]] const std::vector<std::string>& harmless_lines();

}  // namespace coctilis::smoke
