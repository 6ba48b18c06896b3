#include "survey/names.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/text.h"

namespace coctilis::survey {

namespace {

bool is_name(std::string_view word) {
  return !word.empty() && std::all_of(word.begin(), word.end(), [](unsigned char c) {
    return std::isalnum(c) != 0 || c == '_' || c == '-' || c == '+' || c == '.';
  });
}

// "clay >= 2.1 glaze": names, each with the constraint behind it.
void add_modules(std::string_view list, int line, Names& names) {
  std::string spaced;
  for (const char c : list) spaced += c == ',' || c == '"' || c == '\'' || c == '[' || c == ']' ? ' ' : c;
  static const RE2 operators(R"((>=|<=|!=|=|<|>))");
  RE2::GlobalReplace(&spaced, operators, R"( \1 )");
  const auto words = text::words(spaced);
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (!is_name(words[i]) || words[i].starts_with("-")) continue;
    Names::Asked asked{words[i], {}, line};
    if (i + 2 < words.size() && RE2::FullMatch(words[i + 1], operators)) {
      asked.constraint = words[i + 1] + " " + words[i + 2];
      i += 2;
    }
    names.asked.push_back(std::move(asked));
  }
}

}  // namespace

void names_in_commands(std::string_view text, Names& names) {
  static const RE2 linked(R"((?:^|[\s"'=])-l([A-Za-z0-9_+.-]+))");
  static const RE2 asked(
      R"(--(?:cflags|libs|exists)\S*((?:\s+(?:--[a-z-]+|["']?[A-Za-z][A-Za-z0-9_+.-]*(?:\s*[<>=]+\s*[0-9.]+)?["']?))+))");
  static const RE2 modules(R"(PKG_CHECK_MODULES\s*\(\s*\[?[A-Za-z0-9_]+\]?\s*,\s*(\[[^\]]*|[^\],)]*))");
  static const RE2 library(R"((?:^|[\s/"'=])lib([A-Za-z0-9_+-]+)\.(?:a|so|la)\b)");
  static const RE2 checked(R"(AC_CHECK_LIB\s*\(\s*\[?([A-Za-z0-9_+-]+))");
  int line = 0;
  for (const auto& one : text::split(text, '\n')) {
    ++line;
    if (text::trim(one).starts_with('#') || one.size() > 20000) continue;
    std::string hit;
    re2::StringPiece rest(one);
    while (RE2::FindAndConsume(&rest, linked, &hit)) names.asked.push_back({hit, {}, line});
    rest = one;
    while (RE2::FindAndConsume(&rest, asked, &hit)) add_modules(hit, line, names);
    rest = one;
    while (RE2::FindAndConsume(&rest, modules, &hit)) add_modules(hit, line, names);
    rest = one;
    while (RE2::FindAndConsume(&rest, checked, &hit)) names.asked.push_back({hit, {}, line});
    rest = one;
    while (RE2::FindAndConsume(&rest, library, &hit)) names.given.push_back(hit);
  }
}

void names_in_pc_file(std::string_view text, Names& names) {
  int line = 0;
  for (const auto& one : text::split(text, '\n')) {
    ++line;
    for (const std::string_view key : {"Requires:", "Requires.private:"}) {
      if (one.starts_with(key)) add_modules(std::string_view(one).substr(key.size()), line, names);
    }
    std::string version;
    if (RE2::FullMatch(one, R"(Version:\s*([0-9][0-9A-Za-z.+~-]*)\s*)", &version)) names.version = version;
  }
}

}  // namespace coctilis::survey
