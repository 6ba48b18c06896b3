#include "describe/sources/scan.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <utility>

#include "base/text.h"
#include "survey/fortran.h"

namespace coctilis::describe::sources {

namespace {

bool is_word(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

// Macros that compilers for other systems define (ISO C and POSIX leave them to implementations).
bool names_other_system(std::string_view condition) {
  static constexpr std::array<std::string_view, 26> names = {
      "_WIN32",    "WIN32",       "_WIN64",       "__WIN32__",   "_MSC_VER",      "__MINGW32__", "__CYGWIN__",
      "_WINDOWS",  "WINDOWS",     "__APPLE__",    "__MSDOS__",   "MSDOS",         "__DJGPP__",   "__OS2__",
      "OS2",       "__VMS",       "VMS",          "macintosh",   "__BEOS__",      "__HAIKU__",   "AMIGA",
      "__AMIGA__", "__ANDROID__", "__BORLANDC__", "__WATCOMC__", "__EMSCRIPTEN__"};
  for (const auto name : names) {
    for (auto at = condition.find(name); at != std::string_view::npos; at = condition.find(name, at + 1)) {
      const bool begins = at == 0 || !is_word(condition[at - 1]);
      const bool ends = at + name.size() >= condition.size() || !is_word(condition[at + name.size()]);
      // "!defined(_WIN32)" is about this system; so may be a choice of several.
      const auto before = condition.substr(0, at);
      if (begins && ends && before.find('!') == std::string_view::npos &&
          condition.find("__linux") == std::string_view::npos && condition.find("unix") == std::string_view::npos)
        return true;
    }
  }
  return false;
}

struct Branch {
  std::string condition;
  bool elsewhere = false;         // this branch is for other systems, or switched off
  bool others_elsewhere = false;  // its #else is
  bool guard = false;             // it is there so that a header is read once
};

class CScanner {
 public:
  Scanned run(std::string_view content) {
    int line = 0;
    for (std::size_t at = 0; at < content.size();) {
      auto end = std::min(content.find('\n', at), content.size());
      ++line;
      std::string_view text = content.substr(at, end - at);
      at = end + 1;
      if (in_comment_) {
        const auto close = text.find("*/");
        if (close == std::string_view::npos) continue;
        in_comment_ = false;
        text = text.substr(close + 2);
      }
      text = text::trim(text);
      if (text.starts_with('#')) directive(text::trim(text.substr(1)), line);
      note_comment(text);
    }
    return std::move(out_);
  }

 private:
  // A comment that is left open at the end of the line.
  void note_comment(std::string_view text) {
    char quote = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (quote != 0) {
        if (text[i] == '\\')
          ++i;
        else if (text[i] == quote)
          quote = 0;
      } else if (text[i] == '"' || text[i] == '\'') {
        quote = text[i];
      } else if (text.substr(i, 2) == "//") {
        return;
      } else if (text.substr(i, 2) == "/*") {
        const auto close = text.find("*/", i + 2);
        if (close == std::string_view::npos) {
          in_comment_ = true;
          return;
        }
        i = close + 1;
      }
    }
  }

  void directive(std::string_view text, int line) {
    std::size_t end = 0;
    while (end < text.size() && is_word(text[end])) ++end;
    const std::string_view word = text.substr(0, end);
    const std::string_view rest = text::trim(text.substr(end));
    const bool first = !std::exchange(any_directive_, true);
    if (word == "include" || word == "include_next" || word == "import") return include(rest, line);
    if (word == "if" || word == "ifdef" || word == "ifndef" || word == "elif") {
      note_names(rest);
      Branch branch;
      branch.condition = std::string(rest);
      const bool negated = word == "ifndef";
      const bool off =
          (word == "if" || word == "elif") && (rest == "0" || rest.starts_with("0 ") || rest.starts_with("0/"));
      const bool other = names_other_system(rest);
      branch.elsewhere = off || (other && !negated);
      branch.others_elsewhere = other && negated;
      branch.guard = first && (negated || rest.starts_with("!defined"));
      if (word == "elif" && !stack_.empty()) {
        stack_.back() = branch;
      } else {
        stack_.push_back(branch);
      }
    } else if (word == "else" && !stack_.empty()) {
      auto& branch = stack_.back();
      branch.elsewhere = branch.others_elsewhere;
      branch.others_elsewhere = false;
    } else if (word == "endif" && !stack_.empty()) {
      stack_.pop_back();
    }
  }

  void note_names(std::string_view text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (!is_word(text[i]) || (i > 0 && is_word(text[i - 1]))) continue;
      std::size_t end = i;
      while (end < text.size() && is_word(text[end])) ++end;
      const auto name = text.substr(i, end - i);
      if (name.starts_with("HAVE_")) out_.asked.emplace_back(name);
      i = end;
    }
  }

  void include(std::string_view rest, int line) {
    if (rest.empty() || (rest[0] != '"' && rest[0] != '<')) return;  // by a macro: the compiler will tell
    const auto close = rest.find(rest[0] == '"' ? '"' : '>', 1);
    if (close == std::string_view::npos || close == 1 || close > 1024) return;
    if (std::any_of(stack_.begin(), stack_.end(), [](const auto& branch) { return branch.elsewhere; })) return;
    Included one;
    one.name = std::string(rest.substr(1, close - 1));
    one.quoted = rest[0] == '"';
    one.line = line;
    if (!stack_.empty() && !stack_.back().guard) one.condition = stack_.back().condition;
    out_.includes.push_back(std::move(one));
  }

  Scanned out_;
  std::vector<Branch> stack_;
  bool in_comment_ = false;
  bool any_directive_ = false;
};

Scanned scan_fortran(std::string_view content, bool fixed) {
  Scanned out;
  auto modules = survey::scan_modules(content, fixed);
  out.defines_modules = std::move(modules.defines);
  out.uses_modules = std::move(modules.uses);
  int line = 0;
  for (const auto& raw : text::split(content, '\n')) {
    ++line;
    const auto trimmed = text::trim(raw);
    if (trimmed.empty() || trimmed[0] == '!') continue;
    const bool directive = raw[0] == '#';
    out.directives = out.directives || directive;
    const std::string lower = text::lower(trimmed.substr(0, 40));
    const auto word = lower.find("include");
    if (word != 0 && !(directive && word != std::string::npos)) continue;
    const auto open = raw.find_first_of("\"'");
    const auto close = open == std::string::npos ? open : raw.find(raw[open], open + 1);
    if (close != std::string::npos) out.includes.push_back({raw.substr(open + 1, close - open - 1), true, line, {}});
  }
  return out;
}

}  // namespace

Scanned scan(std::string_view content, bool fortran, bool fixed) {
  return fortran ? scan_fortran(content, fixed) : CScanner().run(content);
}

}  // namespace coctilis::describe::sources
