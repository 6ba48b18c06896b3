#include "smoke/patterns.h"

#include <algorithm>

#include "describe/listfile/regex.h"

namespace coctilis::smoke {

bool any_found(const std::vector<std::string>& patterns, const std::string& output) {
  return std::any_of(patterns.begin(), patterns.end(), [&](const auto& pattern) {
    const auto regex = describe::listfile::readable_regex(pattern);
    return regex && regex->matches(output);
  });
}

}  // namespace coctilis::smoke
