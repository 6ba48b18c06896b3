#include "describe/listfile/language.h"

#include <cctype>

#include "base/text.h"
#include "describe/listfile/limits.h"

namespace coctilis::describe::listfile {

namespace {

bool name_start(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_'; }
bool name_part(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

class Lexer {
 public:
  Lexer(std::string_view s, const std::string& path) : s_(s), path_(path) {
    if (s_.starts_with("\xEF\xBB\xBF")) at_ = 3;
  }

  std::vector<Call> calls() {
    std::vector<Call> out;
    for (;;) {
      skip_space(true);
      if (at_ >= s_.size()) return out;
      if (!name_start(s_[at_]))
        fail(shown(at_) + " where a command was expected", "a line starts with the name of a command");
      Call call;
      call.line = line_;
      call.column = column();
      while (at_ < s_.size() && name_part(s_[at_])) call.written += s_[at_++];
      call.name = text::lower(call.written);
      skip_space(false);
      if (at_ >= s_.size() || s_[at_] != '(') {
        fail("'(' is missing after '" + call.written + "'", "write " + call.written + "(...)", call.line, call.column);
      }
      ++at_;
      arguments(call);
      out.push_back(std::move(call));
    }
  }

 private:
  [[nodiscard]] int column() const { return static_cast<int>(at_ - line_start_) + 1; }
  [[nodiscard]] std::string shown(std::size_t at) const { return "'" + text::printable_line(s_.substr(at, 1)) + "'"; }
  [[noreturn]] void fail(const std::string& what, const std::string& remedy, int line = 0, int col = 0) const {
    throw Fault(
        {Exit::description, {path_, line != 0 ? line : line_, line != 0 ? col : column()}, what, "", remedy, {}});
  }
  void newline() {
    ++line_;
    line_start_ = at_ + 1;
  }

  // The length of a bracket opening "[==[" at `at`, or 0.
  [[nodiscard]] std::size_t bracket_open(std::size_t at) const {
    if (at >= s_.size() || s_[at] != '[') return 0;
    std::size_t end = at + 1;
    while (end < s_.size() && s_[end] == '=') ++end;
    return end < s_.size() && s_[end] == '[' ? end + 1 - at : 0;
  }
  // Reads a bracket argument or comment whose opening starts here.
  std::string bracket(std::size_t open) {
    const int line = line_;
    const int col = column();
    const std::string close = "]" + std::string(open - 2, '=') + "]";
    at_ += open;
    const auto end = s_.find(close, at_);
    if (end == std::string_view::npos)
      fail("a bracket is opened but never closed with " + close, "add " + close, line, col);
    std::string text(s_.substr(at_, end - at_));
    for (; at_ < end; ++at_) {
      if (s_[at_] == '\n') newline();
    }
    at_ += close.size();
    if (text.starts_with("\r\n"))
      text.erase(0, 2);
    else if (text.starts_with("\n"))
      text.erase(0, 1);
    return text;
  }
  void skip_space(bool lines) {
    while (at_ < s_.size()) {
      const char c = s_[at_];
      if (c == '\n') {
        if (!lines) return;
        newline();
        ++at_;
      } else if (c == ' ' || c == '\t' || c == '\r') {
        ++at_;
      } else if (c == '#' && lines) {
        ++at_;
        if (const auto open = bracket_open(at_); open != 0) {
          bracket(open);
        } else {
          while (at_ < s_.size() && s_[at_] != '\n') ++at_;
        }
      } else {
        return;
      }
    }
  }

  void arguments(Call& call) {
    int depth = 0;
    for (;;) {
      skip_space(true);
      if (at_ >= s_.size())
        fail("'" + call.written + "(' is never closed", "add the missing ')'", call.line, call.column);
      const char c = s_[at_];
      if (c == ')' && depth == 0) {
        ++at_;
        return;
      }
      Argument argument;
      argument.line = line_;
      if (c == '(' || c == ')') {
        depth += c == '(' ? 1 : -1;
        argument.text = c;
        ++at_;
      } else if (c == '"') {
        argument.kind = Argument::Kind::quoted;
        argument.text = quoted(call);
      } else if (const auto open = bracket_open(at_); open != 0) {
        argument.kind = Argument::Kind::bracket;
        argument.text = bracket(open);
      } else {
        argument.text = unquoted(call);
      }
      argument.plain =
          argument.kind == Argument::Kind::bracket ||
          (argument.text.find_first_of(argument.kind == Argument::Kind::quoted ? "$\\" : "$\\;") == std::string::npos &&
           (argument.kind == Argument::Kind::quoted || !argument.text.empty()));
      call.arguments.push_back(std::move(argument));
      if (++words_ > most_words)
        fail("the file has more than " + text::grouped(most_words) + " words", "no description has so many");
    }
  }

  std::string quoted(const Call& call) {
    const int line = line_;
    const int col = column();
    std::string out;
    for (++at_;; ++at_) {
      if (at_ >= s_.size())
        fail("a text in " + call.written + "(...) is opened with '\"' but never closed", "add the missing '\"'", line,
             col);
      const char c = s_[at_];
      if (c == '"') break;
      if (c == '\\' && at_ + 1 < s_.size()) {
        if (s_[at_ + 1] == '\n') {  // a line that goes on
          ++at_;
          newline();
          continue;
        }
        out += c;
        out += s_[++at_];
        continue;
      }
      if (c == '\n') newline();
      if (c == '\r' && at_ + 1 < s_.size() && s_[at_ + 1] == '\n') continue;
      out += c;
    }
    ++at_;
    return out;
  }

  std::string unquoted(const Call& call) {
    std::string out;
    while (at_ < s_.size()) {
      const char c = s_[at_];
      if (c == '\\' && at_ + 1 < s_.size() && s_[at_ + 1] != '\n') {
        out += c;
        out += s_[at_ + 1];
        at_ += 2;
      } else if (c == '"') {  // -DNAME="a b": the quotes belong to the word
        out += '"';
        out += quoted(call) + '"';
      } else if (c == '$' && at_ + 1 < s_.size() && s_[at_ + 1] == '(') {  // $(NAME), kept as it is
        const auto end = s_.find_first_of(")\n", at_);
        if (end == std::string_view::npos || s_[end] == '\n') fail("'$(' without ')'", "write ${NAME} for a variable");
        out += s_.substr(at_, end + 1 - at_);
        at_ = end + 1;
      } else if (std::isspace(static_cast<unsigned char>(c)) != 0 || c == '(' || c == ')' || c == '#') {
        break;
      } else {
        out += c;
        ++at_;
      }
    }
    if (out.empty()) fail(shown(at_) + " cannot start an argument of " + call.written + "(...)", "put it in quotes");
    return out;
  }

  std::string_view s_;
  const std::string& path_;
  std::size_t at_ = 0;
  std::size_t words_ = 0;
  int line_ = 1;
  std::size_t line_start_ = 0;
};

class Blocks {
 public:
  Blocks(std::vector<Call> calls, const std::string& path) : calls_(std::move(calls)), path_(path) {}

  Body top() {
    Body body = sequence();
    if (next_ < calls_.size()) {
      const Call& call = calls_[next_];
      throw Fault({Exit::description,
                   {path_, call.line, call.column},
                   "'" + call.written + "' closes nothing",
                   "",
                   "remove it, or add what opens the block",
                   {}});
    }
    return body;
  }

 private:
  static std::string closing(const std::string& name) {
    for (const char* opener : {"if", "foreach", "while", "function", "macro", "block"}) {
      if (name == opener) return std::string("end") + opener;
    }
    return {};
  }
  static bool closes(const std::string& name) {
    return name == "else" || name == "elseif" || (name.starts_with("end") && !closing(name.substr(3)).empty());
  }

  // Nodes up to a call that closes a block (left in place).
  Body sequence() {
    Body body;
    while (next_ < calls_.size()) {
      const std::string name = calls_[next_].name;
      if (closes(name)) return body;
      Node node;
      node.call = std::move(calls_[next_++]);
      const std::string close = closing(name);
      if (!close.empty()) {
        if (++depth_ > 256) fail(node.call, "blocks are nested more than 256 deep");
        node.block = true;
        block(node, close);
        --depth_;
      }
      body.push_back(std::move(node));
    }
    return body;
  }

  void block(Node& node, const std::string& close) {
    Body* into = &node.body;
    for (;;) {
      *into = sequence();
      if (next_ >= calls_.size()) fail(node.call, "'" + node.call.written + "' is never closed with " + close);
      Call call = std::move(calls_[next_++]);
      if (call.name == close) return;
      const bool branch = node.call.name == "if" && (call.name == "else" || call.name == "elseif");
      if (!branch) {
        throw Fault({Exit::description,
                     {path_, call.line, call.column},
                     "'" + call.written + "' stands where " + close + " was expected",
                     "the block was opened with '" + node.call.written + "' in line " + std::to_string(node.call.line),
                     "close the inner block first",
                     {}});
      }
      node.branches.push_back({std::move(call), {}});
      into = &node.branches.back().body;
    }
  }

  [[noreturn]] void fail(const Call& call, const std::string& what) const {
    throw Fault({Exit::description, {path_, call.line, call.column}, what, "", "every block needs its end", {}});
  }

  std::vector<Call> calls_;
  const std::string& path_;
  std::size_t next_ = 0;
  int depth_ = 0;
};

}  // namespace

std::shared_ptr<const File> parse(std::string_view content, const std::string& path) {
  auto file = std::make_shared<File>();
  file->path = path;
  file->body = Blocks(Lexer(content, path).calls(), file->path).top();
  return file;
}

}  // namespace coctilis::describe::listfile
