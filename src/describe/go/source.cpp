#include "describe/go/source.h"

#include <algorithm>
#include <cctype>
#include <set>
#include <utility>

#include "base/text.h"

namespace coctilis::describe::go {

namespace {

const std::set<std::string>& systems() {
  static const std::set<std::string> names = {"aix",     "android", "darwin",  "dragonfly", "freebsd", "hurd",
                                              "illumos", "ios",     "js",      "linux",     "nacl",    "netbsd",
                                              "openbsd", "plan9",   "solaris", "wasip1",    "windows", "zos"};
  return names;
}
const std::set<std::string>& processors() {
  static const std::set<std::string> names = {"386",       "amd64",       "amd64p32", "arm",    "armbe",   "arm64",
                                              "arm64be",   "loong64",     "mips",     "mipsle", "mips64",  "mips64le",
                                              "mips64p32", "mips64p32le", "ppc",      "ppc64",  "ppc64le", "riscv",
                                              "riscv64",   "s390",        "s390x",    "sparc",  "sparc64", "wasm"};
  return names;
}

// The words of a source's beginning: comments are handed out, texts are read.
class Words {
 public:
  explicit Words(std::string_view text) : text_(text) {}

  std::vector<std::string> comments;  // line comments before the package clause, without //
  std::string block;                  // the comment right before a word, with all its lines

  // The next word: a name, a text with its quote in front, or a sign. Empty at the end.
  std::string next() {
    skip();
    if (at_ >= text_.size()) return {};
    const char c = text_[at_];
    if (std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_' || (static_cast<unsigned char>(c) & 0x80U) != 0) {
      const auto begin = at_;
      while (at_ < text_.size() && (std::isalnum(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == '_' ||
                                    (static_cast<unsigned char>(text_[at_]) & 0x80U) != 0))
        ++at_;
      return std::string(text_.substr(begin, at_ - begin));
    }
    if (c == '"' || c == '`') {
      const auto begin = ++at_;
      while (at_ < text_.size() && text_[at_] != c && (c == '`' || text_[at_] != '\n'))
        at_ += text_[at_] == '\\' && c == '"' ? 2 : 1;
      const auto end = std::min(at_, text_.size());
      at_ = end + 1;
      return "\"" + std::string(text_.substr(begin, end - begin));
    }
    ++at_;
    return std::string(1, c);
  }
  [[nodiscard]] std::size_t place() const { return std::min(at_, text_.size()); }
  void forget_block() { block.clear(); }

 private:
  void skip() {
    while (at_ < text_.size()) {
      const std::string_view rest = text_.substr(at_);
      if (rest.starts_with("//")) {
        const auto end = std::min(text_.find('\n', at_), text_.size());
        std::string line(text_.substr(at_ + 2, end - at_ - 2));
        while (line.ends_with('\r')) line.pop_back();
        comments.push_back(line);
        block += line + "\n";
        at_ = end;
      } else if (rest.starts_with("/*")) {
        const auto end = text_.find("*/", at_ + 2);
        const auto stop = end == std::string_view::npos ? text_.size() : end;
        block += std::string(text_.substr(at_ + 2, stop - at_ - 2)) + "\n";
        at_ = std::min(stop + 2, text_.size());
      } else if (std::isspace(static_cast<unsigned char>(text_[at_])) != 0) {
        // A line that is empty parts a comment from what follows.
        if (rest.starts_with("\n\n") || rest.starts_with("\n\r\n")) block.clear();
        ++at_;
      } else {
        return;
      }
    }
  }

  std::string_view text_;
  std::size_t at_ = 0;
};

// Old lines: blanks are "or", commas "and", several lines "and".
std::string of_old_lines(const std::vector<std::string>& lines) {
  std::vector<std::string> all;
  for (const auto& line : lines) {
    std::vector<std::string> any;
    for (const auto& word : text::words(line)) {
      std::vector<std::string> terms = text::split(word, ',');
      any.push_back("(" + text::join(terms, " && ") + ")");
    }
    all.push_back("(" + text::join(any, " || ") + ")");
  }
  return text::join(all, " && ");
}

class Expression {
 public:
  Expression(const std::string& text, const HasTag& has) : text_(text), has_(has) {}
  bool run(std::string& problem) {
    const bool out = either(0);
    blanks();
    if (at_ < text_.size() && problem_.empty()) problem_ = "'" + text_.substr(at_, 20) + "' is no part of a constraint";
    problem = problem_;
    return out && problem_.empty();
  }

 private:
  void blanks() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
  }
  bool take(std::string_view sign) {
    blanks();
    if (text_.compare(at_, sign.size(), sign) != 0) return false;
    at_ += sign.size();
    return true;
  }
  bool either(int depth) {
    bool out = both(depth);
    while (take("||")) {
      const bool other = both(depth);
      out = out || other;
    }
    return out;
  }
  bool both(int depth) {
    bool out = one(depth);
    while (take("&&")) {
      const bool other = one(depth);
      out = out && other;
    }
    return out;
  }
  bool one(int depth) {
    if (depth > 200) {
      problem_ = "the constraint goes too deep";
      return false;
    }
    if (take("!")) return !one(depth + 1);
    if (take("(")) {
      const bool out = either(depth + 1);
      if (!take(")") && problem_.empty()) problem_ = "a bracket is not closed";
      return out;
    }
    blanks();
    const auto begin = at_;
    while (at_ < text_.size() &&
           (std::isalnum(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == '_' || text_[at_] == '.'))
      ++at_;
    if (at_ == begin) {
      if (problem_.empty()) problem_ = "a tag is missing";
      at_ = text_.size();
      return false;
    }
    return has_(text_.substr(begin, at_ - begin));
  }

  const std::string& text_;
  const HasTag& has_;
  std::size_t at_ = 0;
  std::string problem_;
};

}  // namespace

namespace {
int line_at(std::string_view text, std::size_t place) {
  return 1 + static_cast<int>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(place), '\n'));
}
}  // namespace

SourceFacts facts_of_source(std::string_view text) {
  SourceFacts out;
  Words words(text);
  std::string word = words.next();
  // Constraints stand before the package clause.
  std::vector<std::string> old;
  for (const auto& line : words.comments) {
    if (line.starts_with("go:build ")) out.constraint = text::trim(line.substr(9));
    const std::string plain(text::trim(line));
    if (plain.starts_with("+build ")) old.push_back(plain.substr(7));
  }
  if (out.constraint.empty() && !old.empty()) out.constraint = of_old_lines(old);
  if (!out.constraint.empty()) out.lines[out.constraint] = line_at(text, std::min(text.find("build "), text.size()));
  if (word != "package") {
    out.problem = "it does not begin with a package clause";
    return out;
  }
  out.package = words.next();
  std::set<std::string> seen;
  const auto add_import = [&](const std::string& path) {
    if (path == "C") {
      out.uses_c = true;
      out.lines[path] = line_at(text, words.place());
      for (const auto& line : text::split(words.block, '\n')) {
        const std::string plain(text::trim(line));
        if (plain.starts_with("#cgo ") || plain.starts_with("#cgo\t"))
          out.cgo.emplace_back(text::trim(plain.substr(5)));
      }
    } else if (seen.insert(path).second) {
      out.lines[path] = line_at(text, words.place());
      out.imports.push_back(path);
    }
  };
  bool embeds = false;
  for (word = words.next(); !word.empty(); word = words.next()) {
    if (word == ";") continue;
    if (word != "import") break;
    const std::string block = words.block;
    word = words.next();
    const bool several = word == "(";
    if (several) word = words.next();
    while (!word.empty() && word != ")") {
      if (word.front() == '"') {
        if (!several) words.block = block;
        embeds = embeds || word == "\"embed";
        add_import(word.substr(1));
        if (!several) break;
        words.forget_block();
      }
      word = words.next();
    }
    words.forget_block();
  }
  if (embeds) {
    int number = 0;
    for (const auto& line : text::split(std::string(text), '\n')) {
      ++number;
      if (!line.starts_with("//go:embed ")) continue;
      // Patterns with blanks stand in quotes.
      std::string current;
      char quote = 0;
      for (const char c : line.substr(11) + " ") {
        if (quote != 0) {
          if (c == quote)
            quote = 0;
          else
            current += c;
        } else if (c == '"' || c == '`') {
          quote = c;
        } else if (c == ' ' || c == '\t' || c == '\r') {
          if (current.empty()) continue;
          out.lines[current] = number;
          out.embeds.push_back(std::exchange(current, {}));
        } else {
          current += c;
        }
      }
    }
  }
  return out;
}

bool holds(const std::string& expression, const HasTag& has, std::string& problem) {
  return Expression(expression, has).run(problem);
}

bool name_fits(const std::string& name, const std::string& system, const std::string& processor, bool& test) {
  std::string stem = name.substr(0, name.rfind('.'));
  test = name.ends_with("_test.go");
  if (test) stem.resize(stem.size() - 5);
  // The first part never counts: "linux.go" is for all.
  const auto parts = text::split(stem, '_');
  if (parts.size() < 2) return true;
  const std::string& last = parts.back();
  const auto fits_system = [&](const std::string& part) { return part == system; };
  if (processors().contains(last)) {
    if (last != processor) return false;
    return parts.size() < 3 || !systems().contains(parts[parts.size() - 2]) || fits_system(parts[parts.size() - 2]);
  }
  return !systems().contains(last) || fits_system(last);
}

}  // namespace coctilis::describe::go
