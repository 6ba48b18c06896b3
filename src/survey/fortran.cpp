#include "survey/fortran.h"

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <set>

#include "base/text.h"

namespace coctilis::survey {

namespace {

std::string ending_of(const std::string& path) { return std::filesystem::path(path).extension().string(); }

bool is_name_char(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

// Divides a source into statements: comments and continuations are taken out, literals are emptied, and letters are
// small.
class Statements {
 public:
  Statements(std::string_view content, bool fixed) : fixed_(fixed) {
    for (std::size_t at = 0; at <= content.size();) {
      const auto end = std::min(content.find('\n', at), content.size());
      std::string_view line = content.substr(at, end - at);
      if (line.ends_with('\r')) line.remove_suffix(1);
      fixed_ ? add_fixed(line) : add_free(line);
      at = end + 1;
    }
    finish();
  }
  std::vector<std::string> all;
  std::vector<std::string> includes;

 private:
  // "include 'name'" alone on a line (6.4): not a statement, and never continued.
  bool take_include(std::string_view line) {
    const auto trimmed = text::trim(line);
    if (trimmed.size() < 9 || text::lower(std::string(trimmed.substr(0, 7))) != "include") return false;
    const auto rest = text::trim(trimmed.substr(7));
    if (rest.empty() || (rest[0] != '\'' && rest[0] != '"')) return false;
    const auto close = rest.find(rest[0], 1);
    if (close == std::string_view::npos) return false;
    includes.emplace_back(rest.substr(1, close - 1));
    return true;
  }

  void add_free(std::string_view line) {
    auto trimmed = text::trim(line);
    if (!continued_ && take_include(trimmed)) return;
    if (trimmed.empty() || trimmed[0] == '!' || trimmed[0] == '#') return;  // a comment does not end a continuation
    if (!continued_) finish();
    if (continued_ && trimmed[0] == '&') trimmed.remove_prefix(1);
    continued_ = false;
    take(trimmed);
  }

  void add_fixed(std::string_view line) {
    if (line.empty() || line[0] == '#' || std::string_view("cC*!dD").find(line[0]) != std::string_view::npos) return;
    if (line.find_first_not_of(" \t") == std::string_view::npos) return;
    // A tab ends the label field; a digit behind it continues (a common extension).
    bool goes_on = false;
    std::string_view body;
    if (const auto tab = line.find('\t'); tab < 6) {
      goes_on = tab + 1 < line.size() && line[tab + 1] >= '1' && line[tab + 1] <= '9';
      body = line.substr(tab + (goes_on ? 2 : 1));
    } else {
      goes_on = line.size() > 5 && line[5] != ' ' && line[5] != '0';
      body = line.size() > 6 ? line.substr(6) : std::string_view{};
      // Columns behind 72 are no part of the statement, as the standard has it; compilers can be told otherwise, and a
      // name that is cut off would be none that anybody has.
    }
    if (!goes_on) {
      if (take_include(body)) return;
      finish();
    }
    take(body);
  }

  // A line of a statement: to the comment behind it or the sign that it goes on.
  void take(std::string_view line) {
    for (std::size_t i = 0; i < line.size(); ++i) {
      const char c = line[i];
      if (quote_ != '\0') {
        if (c == quote_) quote_ = '\0';
        if (!fixed_ && c == '&' && text::trim(line.substr(i + 1)).empty()) {
          continued_ = true;
          return;
        }
        continue;
      }
      if (c == '\'' || c == '"') {
        quote_ = c;
        current_ += '\'';
      } else if (c == '!') {
        return;
      } else if (c == '&' && !fixed_) {
        continued_ = true;
        return;
      } else if (c == ';') {
        finish();
      } else {
        current_ += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
      }
    }
    if (!fixed_) quote_ = '\0';
  }

  void finish() {
    const auto trimmed = text::trim(current_);
    if (!trimmed.empty()) all.emplace_back(trimmed);
    current_.clear();
    quote_ = '\0';
    continued_ = false;
  }

  const bool fixed_;
  bool continued_ = false;
  char quote_ = '\0';
  std::string current_;
};

// Reads a statement from left to right.
class Words {
 public:
  explicit Words(std::string_view statement) : rest_(statement) {}
  std::string name() {
    skip();
    std::size_t n = 0;
    while (n < rest_.size() && is_name_char(rest_[n])) ++n;
    std::string out(rest_.substr(0, n));
    rest_.remove_prefix(n);
    return out;
  }
  bool take(std::string_view sign) {
    skip();
    if (!rest_.starts_with(sign)) return false;
    rest_.remove_prefix(sign.size());
    return true;
  }
  bool at_end() {
    skip();
    return rest_.empty();
  }

 private:
  void skip() {
    while (!rest_.empty() && (rest_[0] == ' ' || rest_[0] == '\t')) rest_.remove_prefix(1);
  }
  std::string_view rest_;
};

void add_once(std::vector<std::string>& to, std::string name) {
  if (std::find(to.begin(), to.end(), name) == to.end()) to.push_back(std::move(name));
}

void read_use(Words& words, SourceModules& out) {
  bool intrinsic = false;
  if (words.take(",")) {
    intrinsic = words.name() == "intrinsic";
    if (!words.take("::")) return;
  } else {
    words.take("::");
  }
  const std::string module = words.name();
  // What follows tells a use from a variable of that name.
  if (module.empty() || intrinsic || !(words.at_end() || words.take(","))) return;
  add_once(out.uses, module);
}

void read_submodule(Words& words, SourceModules& out) {
  if (!words.take("(")) return;
  const std::string ancestor = words.name();
  std::string parent;
  if (words.take(":")) parent = words.name();
  if (!words.take(")")) return;
  const std::string name = words.name();
  if (ancestor.empty() || name.empty() || !words.at_end()) return;
  add_once(out.uses, ancestor);
  if (!parent.empty()) add_once(out.uses, ancestor + "@" + parent);
  out.defines.push_back(ancestor + "@" + name);
}

}  // namespace

bool has_fixed_ending(const std::string& path) {
  static const std::set<std::string> fixed = {".f",   ".for", ".ftn", ".f77", ".F",
                                              ".FOR", ".FTN", ".F77", ".fpp", ".FPP"};
  return fixed.contains(ending_of(path));
}

bool has_preprocessed_ending(const std::string& path) {
  const std::string ending = ending_of(path);
  return ending == ".fpp" || (ending.size() > 1 && std::isupper(static_cast<unsigned char>(ending[1])) != 0);
}

SourceModules scan_modules(std::string_view content, bool fixed_form) {
  SourceModules out;
  Statements statements(content, fixed_form);
  out.includes = std::move(statements.includes);
  for (const auto& statement : statements.all) {
    Words words(statement);
    const std::string first = words.name();
    if (first == "use") {
      read_use(words, out);
    } else if (first == "submodule") {
      read_submodule(words, out);
    } else if (first == "module") {
      // Not "module procedure", "module subroutine", "module function" and their prefixes.
      const std::string name = words.name();
      if (!name.empty() && name != "procedure" && words.at_end()) out.defines.push_back(name);
    }
  }
  for (const auto& defined : out.defines) std::erase(out.uses, defined);
  return out;
}

bool is_laid_out_fixed(const std::string& path, std::string_view content) {
  const bool by_name = has_fixed_ending(path);
  std::size_t fixed = 0;
  std::size_t free = 0;
  int lines = 0;
  for (std::size_t at = 0; at < content.size() && lines < 2000; ++lines) {
    const auto end = std::min(content.find('\n', at), content.size());
    std::string_view line = content.substr(at, end - at);
    at = end + 1;
    while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.remove_suffix(1);
    const auto first = line.find_first_not_of(' ');
    if (first == std::string_view::npos || line[first] == '!' || line[first] == '#' || line.find('\t') < 6) continue;
    const auto is_letter = [&](std::size_t i) {
      return i < line.size() && std::isalpha(static_cast<unsigned char>(line[i])) != 0;
    };
    if (first == 0 && std::string_view("cC*").find(line[0]) != std::string_view::npos && !is_letter(1)) {
      ++fixed;  // a comment
    } else if (first < 5 && is_letter(first)) {
      // A statement where labels belong; "call", "c = 1" and the like begin with a letter that makes a comment.
      ++free;
    } else if (first == 5 && line[5] != '0' && !is_letter(5)) {
      ++fixed;  // a line that goes on
    }
    const auto comment = line.find('!');
    const auto body = text::trim(line.substr(0, comment));
    if (body.size() > 1 && body.back() == '&' && line.size() <= 72) ++free;
  }
  if (by_name) return free == 0 || fixed > 0;
  return fixed > 0 && free == 0;
}

}  // namespace coctilis::survey
