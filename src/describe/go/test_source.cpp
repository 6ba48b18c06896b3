#include "describe/go/test_source.h"

#include <algorithm>
#include <cctype>

#include "base/text.h"

namespace coctilis::describe::go {

namespace {

using Kind = TestFunction::Kind;

// The words of a source and its comments, as The Go Programming Language Specification has them ("Lexical elements").
class Scanner {
 public:
  explicit Scanner(std::string_view text) : text_(text) {}

  // The comments since the last word that follow each other without an empty line: the last such group, without its
  // marks. A line each.
  std::string comment;
  bool new_line = false;  // a line ended since the last word

  // The next name or sign; a text or a number is "0". Empty at the end.
  std::string next() {
    skip();
    if (at_ >= text_.size()) return {};
    const char c = text_[at_];
    if (is_letter(c)) {
      const auto begin = at_;
      while (at_ < text_.size() && (is_letter(text_[at_]) || is_digit(text_[at_]))) ++at_;
      return std::string(text_.substr(begin, at_ - begin));
    }
    if (c == '"' || c == '`' || c == '\'') {
      ++at_;
      while (at_ < text_.size() && text_[at_] != c && (c == '`' || text_[at_] != '\n'))
        at_ += text_[at_] == '\\' && c != '`' ? 2 : 1;
      at_ = std::min(at_ + 1, text_.size());
      return "0";
    }
    ++at_;
    return is_digit(c) ? "0" : std::string(1, c);
  }

 private:
  static bool is_letter(char c) {
    return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_' || (static_cast<unsigned char>(c) & 0x80U) != 0;
  }
  static bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }

  void skip() {
    comment.clear();
    new_line = false;
    int lines = 0;  // that ended since the last comment
    while (at_ < text_.size()) {
      const std::string_view rest = text_.substr(at_);
      if (rest.starts_with("//") || rest.starts_with("/*")) {
        if (lines > 1) comment.clear();
        const bool block = rest[1] == '*';
        const auto end = std::min(block ? text_.find("*/", at_ + 2) : text_.find('\n', at_), text_.size());
        std::string one(text_.substr(at_ + 2, end - at_ - 2));
        // The blank behind the mark is none of the text.
        if (!block && one.starts_with(' ')) one.erase(0, 1);
        while (!block && one.ends_with('\r')) one.pop_back();
        comment += one + "\n";
        at_ = std::min(block ? end + 2 : end, text_.size());
        lines = 0;
      } else if (std::isspace(static_cast<unsigned char>(text_[at_])) != 0) {
        if (text_[at_++] != '\n') continue;
        ++lines;
        new_line = true;
      } else {
        return;
      }
    }
  }

  std::string_view text_;
  std::size_t at_ = 0;
};

// "TestX" and "Test", and not "Testing".
bool is_named(const std::string& name, std::string_view begin) {
  return name.starts_with(begin) &&
         (name.size() == begin.size() || std::islower(static_cast<unsigned char>(name[begin.size()])) == 0);
}

// What a comment says that an example has to write: "Output: ..." or "Unordered output: ...", in any case of letters.
void take_output(const std::string& comment, TestFunction& out) {
  std::string_view rest = text::trim(comment);
  const auto take = [&](std::string_view word) {
    if (text::lower(std::string(rest.substr(0, word.size()))) != word) return false;
    rest.remove_prefix(word.size());
    return true;
  };
  const bool any_order = take("unordered ");
  if (!take("output:")) return;
  out.has_output = true;
  out.any_order = any_order;
  out.output = text::trim(rest);
}

}  // namespace

std::vector<TestFunction> test_functions_of(std::string_view text) {
  std::vector<TestFunction> out;
  Scanner scanner(text);
  int depth = 0;
  bool read = false;  // the word is read already
  for (std::string word; read || !(word = scanner.next()).empty();) {
    read = false;
    if (word == "{" || word == "(" || word == "[") ++depth;
    if (word == "}" || word == ")" || word == "]") --depth;
    if (word != "func" || depth != 0) continue;
    TestFunction one;
    one.name = scanner.next();
    if (one.name == "(") {  // a method
      ++depth;
      continue;
    }
    word = scanner.next();
    if (word != "(") {  // for any type
      if (word == "[") ++depth;
      continue;
    }
    std::vector<std::string> takes;
    int inner = 1;
    while (inner > 0 && !(word = scanner.next()).empty()) {
      if (word == "(") ++inner;
      if (word == ")") --inner;
      if (inner > 0) takes.push_back(word);
    }
    // What it gives back stands before its body.
    bool gives = false;
    int open = 0;
    while (!(word = scanner.next()).empty() && word != "{") {
      read = open == 0 && scanner.new_line;
      if (read) break;
      if (word == "(") ++open;
      if (word == ")") --open;
      gives = true;
    }
    if (read) continue;  // its body is elsewhere
    std::string last;    // comment of the body, which stands before its last bracket
    for (inner = 1; inner > 0 && !(word = scanner.next()).empty();) {
      if (word == "{") ++inner;
      if (word == "}") --inner;
      if (!scanner.comment.empty()) last = scanner.comment;
    }
    const auto takes_one = [&](const char* type) {
      return !gives && takes.size() >= 3 && takes.back() == type && std::count(takes.begin(), takes.end(), ",") == 0 &&
             takes[1] == "*";
    };
    if (one.name == "TestMain" && takes_one("M")) {
      one.kind = Kind::main;
    } else if (is_named(one.name, "Test") && takes_one("T")) {
      one.kind = Kind::test;
    } else if (is_named(one.name, "Benchmark") && takes_one("B")) {
      one.kind = Kind::benchmark;
    } else if (is_named(one.name, "Fuzz") && takes_one("F")) {
      one.kind = Kind::fuzz_target;
    } else if (is_named(one.name, "Example") && takes.empty() && !gives) {
      one.kind = Kind::example;
      take_output(last, one);
    } else {
      continue;
    }
    out.push_back(std::move(one));
  }
  return out;
}

std::string as_text(std::string_view text) {
  std::string out = "\"";
  for (const char c : text) {
    const auto byte = static_cast<unsigned char>(c);
    if (c == '"' || c == '\\') {
      out += '\\';
      out += c;
    } else if (byte < 0x20 || byte >= 0x7f) {
      static constexpr char digits[] = "0123456789abcdef";
      out += {'\\', 'x', digits[byte >> 4U], digits[byte & 15U]};
    } else {
      out += c;
    }
  }
  return out + "\"";
}

}  // namespace coctilis::describe::go
