// The patterns by which users and descriptions tell what a program has to print.
#pragma once

#include <string>
#include <vector>

namespace re2 {
class RE2;
}

namespace coctilis::smoke {

// True when one of the patterns (regular expressions of the description's language) is found in what a test printed.
// One that cannot be read is found nowhere.
[[nodiscard]] bool any_found(const std::vector<std::string>& patterns, const std::string& output);

// A pattern of coctilis.toml (RE2; ^ and $ are the ends of a line) that can be matched; one that cannot be read matches
// nothing. Read once, and kept as long as this program runs. Not for several threads.
[[nodiscard]] const re2::RE2& line_pattern(const std::string& pattern);

// Whether such a pattern is found in the text.
[[nodiscard]] bool is_found(const std::string& pattern, const std::string& text);

// What the first of such patterns that is found is found in, for people: the line, or the pattern when it is found in
// several. Empty when none is.
[[nodiscard]] std::string first_found(const std::vector<std::string>& patterns, const std::string& text);

}  // namespace coctilis::smoke
