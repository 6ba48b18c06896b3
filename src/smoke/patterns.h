// The patterns by which a description tells from its output how a test ended.
#pragma once

#include <string>
#include <vector>

namespace coctilis::smoke {

// True when one of the patterns (regular expressions of the description's language) is found in what a test printed.
// One that cannot be read is found nowhere.
[[nodiscard]] bool any_found(const std::vector<std::string>& patterns, const std::string& output);

}  // namespace coctilis::smoke
