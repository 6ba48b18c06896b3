#include "base/dependency_file.h"

#include <set>

namespace coctilis {

std::vector<std::string> parse_dependency_file(std::string_view content) {
  std::vector<std::string> out;
  std::set<std::string> seen;
  bool after_colon = false;
  std::string word;
  const auto flush = [&] {
    if (after_colon && !word.empty() && seen.insert(word).second) out.push_back(word);
    word.clear();
  };
  for (std::size_t i = 0; i < content.size(); ++i) {
    const char c = content[i];
    const char next = i + 1 < content.size() ? content[i + 1] : '\n';
    if (c == '\\' && next == '\n') {
      flush();
      ++i;
    } else if (c == '\\' && next == '\r') {
      flush();
      i += 2;
    } else if (c == '\\' && (next == ' ' || next == '#' || next == '\\' || next == ':')) {
      word += next;
      ++i;
    } else if (c == '$' && next == '$') {
      word += '$';
      ++i;
    } else if (c == ':' && !after_colon &&
               (next == ' ' || next == '\n' || next == '\t' || next == '\r' || next == '\\')) {
      word.clear();
      after_colon = true;
    } else if (c == '\n') {
      flush();
      after_colon = false;
    } else if (c == ' ' || c == '\t' || c == '\r') {
      if (after_colon) flush();
    } else {
      word += c;
    }
  }
  flush();
  return out;
}

}  // namespace coctilis
