#include "smoke/patterns.h"

#include <algorithm>
#include <stdexcept>

#include "describe/listfile/regex.h"

namespace coctilis::smoke {

bool any_found(const std::vector<std::string>& patterns, const std::string& output) {
  return std::any_of(patterns.begin(), patterns.end(), [&](const auto& pattern) {
    try {
      return describe::listfile::Regex(pattern).matches(output);
    } catch (const std::invalid_argument&) {
      return false;
    }
  });
}

}  // namespace coctilis::smoke
