// What configure scripts print, taken apart.
#include <re2/re2.h>

#include "base/text.h"
#include "describe/configure/reader.h"

namespace coctilis::describe::configure {

std::vector<Check> checks_in(const std::string& output) {
  std::vector<Check> out;
  static const RE2 line(R"((?i)^checking (?:for |whether |if )?(.+?)\.\.\. ?(.*)$)");
  for (const auto& text : text::split(output, '\n')) {
    Check check;
    if (!RE2::FullMatch(std::string(text::trim(text)), line, &check.name, &check.answer)) continue;
    // Two checks whose lines ran into each other: the answer is that of the last.
    if (const auto inner = check.answer.rfind("... "); inner != std::string::npos) check.answer.erase(0, inner + 4);
    if (check.answer.starts_with("(cached) ")) check.answer.erase(0, 9);
    out.push_back(std::move(check));
  }
  return out;
}

std::vector<model::Option> options_in(const std::string& help) {
  std::vector<model::Option> out;
  static const RE2 option(R"(^  --((?:enable|disable|with|without)-[A-Za-z0-9_.+-]+)(\[?=\S+)?\s*(.*)$)");
  static const RE2 variable(R"(^  ([A-Z][A-Z0-9_]*)\s{2,}(.*)$)");
  bool variables = false;
  for (const auto& line : text::split(help, '\n')) {
    if (line.starts_with("Some influential environment variables")) variables = true;
    model::Option found;
    std::string value;
    if (RE2::FullMatch(line, option, &found.name, &value, &found.help)) {
      if (found.name == "enable-FEATURE" || found.name == "disable-FEATURE" || found.name == "with-PACKAGE" ||
          found.name == "without-PACKAGE" || found.name == "disable-option-checking")
        continue;
      // What can be taken away is there when nobody says otherwise.
      const bool off = found.name.starts_with("disable-") || found.name.starts_with("without-");
      if (found.name.starts_with("disable-")) found.name = "enable-" + found.name.substr(8);
      if (found.name.starts_with("without-")) found.name = "with-" + found.name.substr(8);
      found.type = value.empty() ? "switch" : "text";
      found.initial = found.value = off ? "yes" : "no";
      out.push_back(std::move(found));
    } else if (variables && RE2::FullMatch(line, variable, &found.name, &found.help)) {
      found.type = "text";
      out.push_back(std::move(found));
    } else if (!out.empty() && line.starts_with("              ")) {
      out.back().help += (out.back().help.empty() ? "" : " ") + std::string(text::trim(line));
    }
  }
  return out;
}

std::string last_failure_in(const std::string& log) {
  // Each check begins with "configure:LINE: checking ..."; the script's end with "## ---".
  const auto end = std::min(log.find("\n## ---------------- ##\n## Cache variables"), log.size());
  const std::string part = log.substr(0, end);
  const auto failed = part.rfind("configure: failed program was:");
  if (failed == std::string::npos) return {};
  const auto begin = part.rfind(": checking ", failed);
  const auto line = begin == std::string::npos ? failed : part.rfind('\n', begin) + 1;
  std::string out;
  int program_lines = 0;
  for (const auto& text : text::split(std::string_view(part).substr(line), '\n')) {
    if (text.starts_with("|")) {
      // Of the program the lines that are its own; the definitions before them are those of all checks.
      if (text.starts_with("| #define") || text.starts_with("| /* confdefs.h")) continue;
      if (++program_lines > 40) continue;
    } else if (program_lines > 0) {
      break;
    }
    out += text + "\n";
  }
  return out;
}

}  // namespace coctilis::describe::configure
