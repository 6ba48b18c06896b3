#include "engine/diagnostics.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/text.h"

namespace coctilis::engine {

namespace {
const RE2& message_pattern() {
  static const RE2 pattern(
      R"(^([^\s:][^:]*):(\d+):(?:(\d+):)?\s+(fatal error|error|warning):\s+(.*?)(?:\s+\[(-W[^\]]+)\])?$)");
  return pattern;
}
// Compilers of Fortran tell the place first, then show the line, then say what it is.
const RE2& place_pattern() {
  static const RE2 pattern(R"(([^\s:][^:]*):(\d+):(\d+):)");
  return pattern;
}
const RE2& later_pattern() {
  static const RE2 pattern(R"((Warning|Error|Fatal Error): (.*?)(?:\s+\[(-W[^\]]+)\])?)");
  return pattern;
}
}  // namespace

namespace {
// Compilers of other families: "kiln.cs(3,10): warning CS0168: ...", and javac's kinds in front of the message.
const RE2& bracket_pattern() {
  static const RE2 pattern(R"(^([^\s(][^(]*)\((\d+),(\d+)\): (error|warning) ([A-Z]+\d+): (.*)$)");
  return pattern;
}
void take_kind(model::Diagnostic& found) {
  static const RE2 kind(R"(^\[([a-z-]+)\] (.*)$)");
  std::string name, message;
  if (!found.place.file.ends_with(".java") || !RE2::FullMatch(found.message, kind, &name, &message)) return;
  found.option = "-Xlint:" + name;
  found.message = message;
}
}  // namespace

std::vector<model::Diagnostic> find_diagnostics(const std::string& output, std::size_t step) {
  std::vector<model::Diagnostic> out;
  constexpr const char* words[] = {"warning", "error", "Warning", "Error"};
  if (std::none_of(std::begin(words), std::end(words),
                   [&](const char* word) { return output.find(word) != std::string::npos; }))
    return out;
  Place above;  // where the next message is meant, told in a line of its own
  for (const auto& line : text::split(text::printable(output), '\n')) {
    model::Diagnostic found;
    std::string column;
    if (RE2::FullMatch(line, place_pattern(), &found.place.file, &found.place.line, &column)) {
      above = found.place;
      above.column = std::atoi(column.c_str());
      continue;
    }
    if (!above.file.empty() && RE2::FullMatch(line, later_pattern(), &found.severity, &found.message, &found.option)) {
      found.severity = found.severity == "Warning" ? "warning" : "error";
      found.place = above;
      found.step = step;
      out.push_back(std::move(found));
      above = {};
      continue;
    }
    const bool by_bracket = RE2::FullMatch(line, bracket_pattern(), &found.place.file, &found.place.line, &column,
                                           &found.severity, &found.option, &found.message);
    if (!by_bracket && !RE2::PartialMatch(line, message_pattern(), &found.place.file, &found.place.line, &column,
                                          &found.severity, &found.message, &found.option))
      continue;
    take_kind(found);
    found.place.column = column.empty() ? 0 : std::atoi(column.c_str());
    if (found.severity == "fatal error") found.severity = "error";
    if (found.option.starts_with("-Werror=")) found.option = "-W" + found.option.substr(8);
    found.step = step;
    out.push_back(std::move(found));
  }
  return out;
}

namespace {
// A line that leads to the message behind it: where the file comes from, what the message is in.
bool leads(const std::string& plain) {
  return plain.starts_with("In file included from") || plain.starts_with("                 from") ||
         plain.find(": In ") != std::string::npos || plain.find(": At ") != std::string::npos ||
         plain.find("required from") != std::string::npos;
}
}  // namespace

std::string first_error(const std::string& output) {
  const auto lines = text::split(output, '\n');
  std::size_t error = lines.size();
  for (std::size_t i = 0; i < lines.size() && error == lines.size(); ++i) {
    std::string severity;
    if (RE2::PartialMatch(text::printable(lines[i]), message_pattern(), nullptr, nullptr, nullptr, &severity) &&
        severity != "warning")
      error = i;
  }
  if (error == lines.size()) return output;
  // Notes and the source excerpt belong to it; the next message does not.
  std::size_t end = error + 1;
  for (; end < lines.size(); ++end) {
    const std::string plain = text::printable(lines[end]);
    if (RE2::PartialMatch(plain, message_pattern()) || leads(plain)) break;
  }
  // Of what comes before the error only lines that lead to it.
  std::size_t begin = error;
  while (begin > 0 && leads(text::printable(lines[begin - 1]))) --begin;
  std::string out;
  for (std::size_t i = begin; i < end; ++i) out += lines[i] + "\n";
  while (out.ends_with("\n\n")) out.pop_back();
  return out;
}

}  // namespace coctilis::engine
