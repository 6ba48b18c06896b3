#include "smoke/test_lines.h"

#include <charconv>

#include "base/text.h"

namespace coctilis::smoke {

namespace {

// The word of a point that says what it is besides, behind a "#", in lower letters: "todo", "skip", "skipped"; empty:
// there is none. A "#" that follows a backslash is a part of the description.
std::string directive_of(std::string_view line) {
  for (std::size_t at = 0; at < line.size(); ++at) {
    if (line[at] != '#' || (at > 0 && line[at - 1] == '\\')) continue;
    const auto rest = text::trim(line.substr(at + 1));
    std::string word = text::lower(std::string(rest.substr(0, rest.find_first_of(" \t:"))));
    // Others stand for themselves, before it or in its reason.
    if (word == "todo" || word.starts_with("skip")) return word;
  }
  return {};
}

bool has_word(std::string_view line, std::string_view word) {
  return line.substr(0, word.size()) == word &&
         (line.size() == word.size() || line[word.size()] == ' ' || line[word.size()] == '\t');
}

// "1..N", with or without a reason behind it.
bool read_plan(std::string_view line, TestLines& out) {
  if (line.substr(0, 3) != "1..") return false;
  std::size_t number = 0;
  const auto digits = line.substr(3);
  const auto read = std::from_chars(digits.data(), digits.data() + digits.size(), number);
  if (read.ec != std::errc{}) return false;
  out.planned = number;
  if (number > 0) return true;
  out.skipped_because = "it says so itself";
  const auto reason = digits.find('#');
  if (reason == std::string_view::npos) return true;
  auto text = text::trim(digits.substr(reason + 1));
  if (text::lower(std::string(text.substr(0, 4))) == "skip") {
    const auto behind = text.find_first_of(" \t:");
    text = behind == std::string_view::npos ? std::string_view{} : text::trim(text.substr(behind + 1));
  }
  if (!text.empty()) out.skipped_because = text::clip(text::printable_line(std::string(text)), 200);
  return true;
}

}  // namespace

TestLines test_lines(const std::string& output) {
  TestLines out;
  for (const auto& whole : text::split(output, '\n')) {
    std::string_view line = whole;
    while (!line.empty() && (line.back() == '\r' || line.back() == ' ' || line.back() == '\t')) line.remove_suffix(1);
    const bool fails = has_word(line, "not ok");
    if (fails || has_word(line, "ok")) {
      ++out.points;
      const std::string directive = directive_of(line);
      // Both are read with what follows them ("skipped"), as the protocol has it.
      const bool skips = directive.starts_with("skip");
      if (skips) ++out.skipped;
      if (fails && !skips && directive != "todo" && out.first_failure.empty())
        out.first_failure = text::clip(text::printable_line(std::string(line)), 200);
    } else if (line.substr(0, 9) == "Bail out!") {
      if (out.given_up.empty()) out.given_up = text::clip(text::printable_line(std::string(line)), 200);
    } else {
      read_plan(line, out);
    }
  }
  return out;
}

}  // namespace coctilis::smoke
