#include "describe/java/source.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::java {

namespace {

// The text with comments and the insides of texts taken out.
std::string without_comments(std::string_view text) {
  std::string out;
  out.reserve(text.size());
  for (std::size_t i = 0; i < text.size();) {
    const std::string_view rest = text.substr(i);
    if (rest.starts_with("//")) {
      i = std::min(text.find('\n', i), text.size());
    } else if (rest.starts_with("/*")) {
      const auto end = text.find("*/", i + 2);
      i = end == std::string_view::npos ? text.size() : end + 2;
      out += ' ';
    } else if (rest.starts_with("\"\"\"")) {
      const auto end = text.find("\"\"\"", i + 3);
      i = end == std::string_view::npos ? text.size() : end + 3;
      out += "\"\"";
    } else if (text[i] == '"' || text[i] == '\'') {
      const char quote = text[i++];
      while (i < text.size() && text[i] != quote && text[i] != '\n') i += text[i] == '\\' ? 2 : 1;
      ++i;
      out += "\"\"";
    } else {
      out += text[i++];
    }
  }
  return out;
}

}  // namespace

SourceFacts facts_of_source(std::string_view text) {
  static const RE2 package(R"((?m)^\s*(?:@\w+(?:\([^)]*\))?\s*)*package\s+([\w.]+)\s*;)");
  static const RE2 import(R"((?:^|[;\s])import\s+(?:static\s+)?([\w.]+(?:\.\*)?)\s*;)");
  static const RE2 main(
      R"(\bpublic\s+(?:final\s+|synchronized\s+)*static\s+(?:final\s+|synchronized\s+)*void\s+main\s*\(\s*(?:final\s+)?String\s*(?:\[\s*\]|\.\.\.|\w+\s*\[\s*\]))");
  static const RE2 other_main(
      R"(\bstatic\s+public\s+(?:final\s+)?void\s+main\s*\(\s*(?:final\s+)?String\s*(?:\[\s*\]|\.\.\.|\w+\s*\[\s*\]))");
  static const RE2 module(R"((?m)^\s*(?:open\s+)?module\s+[\w.]+\s*\{)");
  SourceFacts out;
  const std::string plain = without_comments(text);
  RE2::PartialMatch(plain, package, &out.package);
  re2::StringPiece rest(plain);
  std::string name;
  while (RE2::FindAndConsume(&rest, import, &name)) out.imports.push_back(name);
  out.imported = out.imports.size();
  // A class may be named with its package where it is used.
  static const RE2 qualified(R"(\b([a-z_]\w*(?:\.[a-z_]\w*)*\.[A-Z]\w*))");
  rest = re2::StringPiece(plain);
  std::string last;
  while (RE2::FindAndConsume(&rest, qualified, &name)) {
    if (name != last && std::find(out.imports.begin(), out.imports.end(), name) == out.imports.end())
      out.imports.push_back(name);
    last = name;
  }
  out.has_main = RE2::PartialMatch(plain, main) || RE2::PartialMatch(plain, other_main);
  out.is_module_info = RE2::PartialMatch(plain, module);
  return out;
}

const SourceFacts& SourcesRead::of(const std::string& path) {
  const auto [it, fresh] = facts_.try_emplace(path);
  if (fresh) it->second = facts_of_source(files::read(path).value_or(""));
  return it->second;
}

}  // namespace coctilis::describe::java
