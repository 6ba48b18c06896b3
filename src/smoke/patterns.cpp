#include "smoke/patterns.h"

#include <re2/re2.h>

#include <algorithm>
#include <memory>
#include <unordered_map>

#include "base/text.h"
#include "describe/listfile/regex.h"

namespace coctilis::smoke {

bool any_found(const std::vector<std::string>& patterns, const std::string& output) {
  return std::any_of(patterns.begin(), patterns.end(), [&](const auto& pattern) {
    const auto regex = describe::listfile::readable_regex(pattern);
    return regex && regex->matches(output);
  });
}

const re2::RE2& line_pattern(const std::string& pattern) {
  static std::unordered_map<std::string, std::unique_ptr<RE2>> all;
  auto& kept = all[pattern];
  if (!kept) {
    RE2::Options quiet;
    quiet.set_log_errors(false);
    kept = std::make_unique<RE2>("(?m:" + pattern + ")", quiet);
  }
  return *kept;
}

bool is_found(const std::string& pattern, const std::string& text) {
  return RE2::PartialMatch(text, line_pattern(pattern));
}

std::string first_found(const std::vector<std::string>& patterns, const std::string& text) {
  for (const auto& pattern : patterns) {
    if (!is_found(pattern, text)) continue;
    for (const auto& line : text::split(text, '\n')) {
      if (is_found(pattern, line)) return text::clip(text::printable_line(line), 200);
    }
    return "'" + pattern + "'";
  }
  return {};
}

}  // namespace coctilis::smoke
