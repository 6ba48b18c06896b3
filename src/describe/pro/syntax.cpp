#include "describe/pro/syntax.h"

#include <algorithm>

#include "base/text.h"

namespace coctilis::describe::pro {

namespace {

constexpr int deepest_nesting = 200;

// Lines that go on are put together and comments are gone; `lines` has the line of each character.
void join_lines(const std::string& content, std::string& out, std::vector<int>& lines) {
  int line = 0;
  bool goes_on = false;
  for (std::size_t at = 0; at < content.size();) {
    const auto end = std::min(content.find('\n', at), content.size());
    std::string text = content.substr(at, end - at);
    at = end + 1;
    ++line;
    if (!text.empty() && text.back() == '\r') text.pop_back();
    const auto hash = text.find('#');
    const bool comment = hash != std::string::npos;
    const bool only_comment = comment && text::trim(text.substr(0, hash)).empty();
    if (comment) text.resize(hash);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\t')) text.pop_back();
    // A comment within lines that go on is not the end of them.
    if (goes_on && only_comment) continue;
    goes_on = text.ends_with('\\');
    if (goes_on) text.pop_back();
    for (const char c : text) {
      out += c;
      lines.push_back(line);
    }
    out += goes_on ? ' ' : '\n';
    lines.push_back(line);
  }
  out += '\n';
  lines.push_back(line + 1);
}

class Parser {
 public:
  Parser(const std::string& content, const std::string& file) : file_(file) { join_lines(content, text_, lines_); }

  Nodes run() {
    Nodes out = block(0, false);
    if (at_ < text_.size()) fail("a '}' without a '{'");
    return out;
  }

 private:
  [[noreturn]] void fail(const std::string& what) const {
    throw Fault(
        {Exit::description, {file_, line(), 0}, what, {}, "balance the braces and brackets around this line", {}});
  }
  [[nodiscard]] int line() const { return lines_.empty() ? 1 : lines_[std::min(at_, lines_.size() - 1)]; }
  [[nodiscard]] bool done() const { return at_ >= text_.size(); }

  void skip(const char* what) {
    while (!done() && std::string_view(what).find(text_[at_]) != std::string_view::npos) ++at_;
  }

  Nodes block(int depth, bool braced) {
    if (depth > deepest_nesting) fail("blocks are nested deeper than " + std::to_string(deepest_nesting));
    Nodes out;
    const int opened = line();
    for (;;) {
      skip(" \t\n;");
      if (done()) {
        if (braced)
          throw Fault({Exit::description,
                       {file_, opened, 0},
                       "a '{' is not closed",
                       {},
                       "close it with a '}' where its block ends",
                       {}});
        return out;
      }
      if (text_[at_] == '}') {
        if (!braced) return out;
        ++at_;
        return out;
      }
      if (is_else()) {
        // "else: win32 {...} else {...}": the second one is about win32.
        Node* last = out.empty() ? nullptr : &out.back();
        while (last != nullptr && last->otherwise.size() == 1 && last->otherwise[0].kind == Node::Kind::condition &&
               !last->else_closed)
          last = &last->otherwise[0];
        if (last == nullptr || last->kind != Node::Kind::condition) fail("an 'else' without a condition before it");
        skip(" \t");
        if (!done() && text_[at_] == ':') ++at_;
        skip(" \t");
        if (!done() && text_[at_] == '{') {
          ++at_;
          last->otherwise = block(depth + 1, true);
          last->else_closed = true;
        } else {
          skip(" \t\n");
          last->otherwise.clear();
          statement(last->otherwise, depth);
        }
        continue;
      }
      statement(out, depth);
    }
  }

  bool is_else() {
    if (text_.compare(at_, 4, "else") != 0) return false;
    const std::size_t end = at_ + 4;
    const char next = end < text_.size() ? text_[end] : '\n';
    if (next != ' ' && next != '\t' && next != ':' && next != '{' && next != '\n') return false;
    if (next == ' ' || next == '\t') {
      const auto word = text_.find_first_not_of(" \t", end);
      if (word != std::string::npos && text_[word] == '=') return false;  // a variable of that name
    }
    at_ = end;
    return true;
  }

  // One word of a statement: up to what ends it on this level. Calls and $${...} are taken whole.
  std::string word() {
    const std::size_t begin = at_;
    int round = 0;
    char quote = 0;
    for (; !done(); ++at_) {
      const char c = text_[at_];
      if (c == '\\' && at_ + 1 < text_.size() && text_[at_ + 1] != '\n') {
        ++at_;
        continue;
      }
      if (quote != 0) {
        if (c == quote) quote = 0;
        if (c == '\n') fail("a quotation mark is not closed");
        continue;
      }
      if ((c == '"' || c == '\'') && round > 0) {
        quote = c;
        continue;
      }
      if (c == '$' && text_.compare(at_, 3, "$${") == 0) {
        const auto close = text_.find('}', at_);
        if (close == std::string::npos) fail("a '$${' is not closed");
        at_ = close;
        continue;
      }
      if (c == '(') ++round;
      if (c == ')') {
        if (round == 0) fail("a ')' without a '('");
        --round;
      }
      if (c == '\n' && round > 0) fail("a '(' is not closed");
      if (round == 0 && (c == '=' || c == '{' || c == '}' || c == ':' || c == '|' || c == '\n')) break;
    }
    return std::string(text::trim(std::string_view(text_).substr(begin, at_ - begin)));
  }

  void statement(Nodes& out, int depth) {
    if (depth > deepest_nesting) fail("conditions are nested deeper than " + std::to_string(deepest_nesting));
    Node node;
    node.line = line();
    bool alternative = false;
    const std::size_t first_line_end = text_.find('\n', at_);
    for (;;) {
      skip(" \t");
      std::string text = word();
      const char end = done() ? '\n' : text_[at_];
      if (end == '=') {
        Node set = assignment(std::move(text));
        if (node.tests.empty()) {
          out.push_back(std::move(set));
          return;
        }
        node.kind = Node::Kind::condition;
        node.body.push_back(std::move(set));
        out.push_back(std::move(node));
        return;
      }
      if (text.starts_with("for(") || text.starts_with("for (") || text.starts_with("defineTest") ||
          text.starts_with("defineReplace")) {
        Node inner = headed(text, depth);
        if (node.tests.empty()) {
          out.push_back(std::move(inner));
        } else {
          node.kind = Node::Kind::condition;
          node.body.push_back(std::move(inner));
          out.push_back(std::move(node));
        }
        return;
      }
      if (!text.empty()) {
        Test test;
        while (text.starts_with('!')) {
          test.negated = !test.negated;
          text = std::string(text::trim(text.substr(1)));
        }
        test.text = std::move(text);
        test.alternative = alternative;
        node.tests.push_back(std::move(test));
      }
      node.kind = Node::Kind::condition;
      if (end == ':' || end == '|') {
        alternative = end == '|';
        ++at_;
        skip(" \t");
        // A condition alone on its line holds for the one below.
        if (!done() && text_[at_] == '\n' && first_line_end != std::string::npos) skip(" \t\n");
        if (done()) break;
        if (is_else()) fail("an 'else' within a condition");
        continue;
      }
      if (end == '{') {
        ++at_;
        node.body = block(depth + 1, true);
      }
      break;
    }
    if (node.tests.empty() && node.body.empty()) {
      // Nothing but a sign that does not belong there.
      if (!done() && text_[at_] != '\n' && text_[at_] != '}') ++at_;
      return;
    }
    out.push_back(std::move(node));
  }

  Node assignment(std::string name) {
    Node node;
    node.kind = Node::Kind::assignment;
    node.line = line();
    node.operation = "=";
    if (!name.empty() && std::string_view("+-*~").find(name.back()) != std::string_view::npos) {
      node.operation = std::string(1, name.back()) + "=";
      name.pop_back();
    }
    node.name = std::string(text::trim(name));
    ++at_;
    const auto end = std::min(text_.find('\n', at_), text_.size());
    std::string value = text_.substr(at_, end - at_);
    // "win32 { A = b }": the brace is not a part of the value.
    int open = 0;
    std::size_t stop = value.size();
    for (std::size_t i = 0; i < value.size(); ++i) {
      if (value[i] == '{') ++open;
      if (value[i] == '}' && --open < 0) {
        stop = i;
        break;
      }
    }
    at_ += stop;
    node.value = std::string(text::trim(std::string_view(value).substr(0, stop)));
    return node;
  }

  // A loop or a function, with its body.
  Node headed(const std::string& text, int depth) {
    Node node;
    node.line = line();
    const auto open = text.find('(');
    const auto close = text.rfind(')');
    if (open == std::string::npos || close == std::string::npos || close < open)
      fail("'" + text::clip(text, 40) + "' lacks its brackets");
    const auto words = arguments_in(text.substr(open + 1, close - open - 1));
    if (text.starts_with("for")) {
      node.kind = Node::Kind::loop;
      if (words.size() == 1) {
        node.value = words[0];  // for(ever)
      } else if (words.size() >= 2) {
        node.name = words[0];
        node.value = words[1];
      }
    } else {
      node.kind = Node::Kind::function;
      node.gives_value = text.starts_with("defineReplace");
      node.name = words.empty() ? "" : words[0];
    }
    skip(" \t");
    if (!done() && text_[at_] == ':') {
      ++at_;
      skip(" \t\n");
      statement(node.body, depth + 1);
    } else {
      skip(" \t\n");
      if (done() || text_[at_] != '{') fail("'" + text::clip(text, 40) + "' has no body");
      ++at_;
      node.body = block(depth + 1, true);
    }
    return node;
  }

  const std::string file_;
  std::string text_;
  std::vector<int> lines_;
  std::size_t at_ = 0;
};

}  // namespace

std::shared_ptr<const Nodes> parse(const std::string& content, const std::string& file) {
  return std::make_shared<const Nodes>(Parser(content, file).run());
}

std::vector<std::string> arguments_in(const std::string& text) {
  std::vector<std::string> out;
  if (text::trim(text).empty()) return out;
  std::string current;
  int depth = 0;
  char quote = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '\\' && i + 1 < text.size()) {
      current += c;
      current += text[++i];
      continue;
    }
    if (quote != 0) {
      if (c == quote) quote = 0;
    } else if (c == '"' || c == '\'') {
      quote = c;
    } else if (c == '(' || c == '{') {
      ++depth;
    } else if (c == ')' || c == '}') {
      --depth;
    } else if (c == ',' && depth == 0) {
      out.emplace_back(text::trim(current));
      current.clear();
      continue;
    }
    current += c;
  }
  out.emplace_back(text::trim(current));
  return out;
}

}  // namespace coctilis::describe::pro
