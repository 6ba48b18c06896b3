// Lists: texts whose elements are divided by semicolons.
#pragma once

#include <algorithm>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis {

namespace lists {
[[nodiscard]] inline bool contains(const std::vector<std::string>& list, std::string_view text) {
  return std::find(list.begin(), list.end(), text) != list.end();
}
inline void append(std::vector<std::string>& to, const std::vector<std::string>& more) {
  to.insert(to.end(), more.begin(), more.end());
}
// At its end, unless it has it.
inline void append_once(std::vector<std::string>& to, const std::string& text) {
  if (!contains(to, text)) to.push_back(text);
}
}  // namespace lists

// The elements; a semicolon within [...] or after a backslash does not divide. Empty elements stay unless `keep_empty`
// is false. "" has no elements.
[[nodiscard]] std::vector<std::string> list_elements(std::string_view list, bool keep_empty = true);
[[nodiscard]] std::string list_join(const std::vector<std::string>& elements);

// True for what conditions take as true: 1, ON, YES, TRUE, Y or a number that is not 0; letter case does not matter.
[[nodiscard]] bool is_true(std::string_view text);
// True for 0, OFF, NO, FALSE, N, IGNORE, NOTFOUND, empty, and what ends in -NOTFOUND.
[[nodiscard]] bool is_false(std::string_view text);

}  // namespace coctilis
