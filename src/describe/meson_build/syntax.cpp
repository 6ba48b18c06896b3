#include "describe/meson_build/syntax.h"

#include <algorithm>
#include <cctype>
#include <set>

#include "base/text.h"

namespace coctilis::describe::meson_build {

namespace {

// Deeper nesting is not written by anybody, and each level takes some of the stack: when it is read, and, where
// operations follow one another, when it is evaluated.
constexpr int most_levels = 500;
constexpr int most_depth = 1000;

struct Token {
  enum class Kind { name, number, text, format, sign, line_end, end };
  Kind kind = Kind::end;
  std::string text;
  std::int64_t number = 0;
  int line = 1;
};

[[noreturn]] void wrong(const std::string& shown, int line, const std::string& what, const std::string& cause = {}) {
  throw Fault({Exit::description, {shown, line, 0}, what, cause, "correct the file there", {}});
}

class Lexer {
 public:
  Lexer(const std::string& text, const std::string& shown) : text_(text), shown_(shown) {}

  std::vector<Token> run() {
    while (at_ < text_.size()) next();
    add(Token::Kind::line_end, "");
    add(Token::Kind::end, "");
    return std::move(out_);
  }

 private:
  void add(Token::Kind kind, std::string text, std::int64_t number = 0) {
    out_.push_back({kind, std::move(text), number, line_});
  }
  [[nodiscard]] char look(std::size_t ahead) const { return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0'; }

  void next() {
    const char c = text_[at_];
    if (c == '\n') {
      // Inside of brackets lines go on.
      if (open_ == 0) add(Token::Kind::line_end, "");
      ++line_;
      ++at_;
    } else if (c == ' ' || c == '\t' || c == '\r') {
      ++at_;
    } else if (c == '\\' && (look(1) == '\n' || (look(1) == '\r' && look(2) == '\n'))) {
      at_ += look(1) == '\r' ? 3 : 2;
      ++line_;
    } else if (c == '#') {
      while (at_ < text_.size() && text_[at_] != '\n') ++at_;
    } else if (c == '\'' || (c == 'f' && look(1) == '\'')) {
      string();
    } else if (std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_') {
      const std::size_t begin = at_;
      while (std::isalnum(static_cast<unsigned char>(look(0))) != 0 || look(0) == '_') ++at_;
      add(Token::Kind::name, text_.substr(begin, at_ - begin));
    } else if (std::isdigit(static_cast<unsigned char>(c)) != 0) {
      number();
    } else {
      sign();
    }
  }

  void number() {
    const std::size_t begin = at_;
    while (std::isalnum(static_cast<unsigned char>(look(0))) != 0) ++at_;
    const std::string word = text_.substr(begin, at_ - begin);
    int base = 10;
    std::string digits = word;
    if (word.size() > 2 && word[0] == '0') {
      const char which = static_cast<char>(std::tolower(static_cast<unsigned char>(word[1])));
      base = which == 'x' ? 16 : which == 'o' ? 8 : which == 'b' ? 2 : 10;
      if (base != 10) digits = word.substr(2);
    }
    try {
      std::size_t used = 0;
      const std::int64_t value = std::stoll(digits, &used, base);
      if (used != digits.size()) wrong(shown_, line_, "'" + text::clip(word, 40) + "' is no number");
      add(Token::Kind::number, word, value);
    } catch (const std::logic_error&) {
      wrong(shown_, line_, "'" + text::clip(word, 40) + "' is no number that can be used");
    }
  }

  void string() {
    const int begin_line = line_;
    const bool format = text_[at_] == 'f';
    if (format) ++at_;
    std::string value;
    const auto kind = format ? Token::Kind::format : Token::Kind::text;
    if (text_.compare(at_, 3, "'''") == 0) {
      const auto end = text_.find("'''", at_ + 3);
      if (end == std::string::npos) wrong(shown_, begin_line, "a text that begins here with ''' has no end");
      value = text_.substr(at_ + 3, end - at_ - 3);
      at_ = end + 3;
      out_.push_back({kind, value, 0, begin_line});
      for (const char c : value) line_ += c == '\n' ? 1 : 0;
      return;
    }
    ++at_;
    for (;; ++at_) {
      const char c = look(0);
      if (at_ >= text_.size()) wrong(shown_, begin_line, "a text that begins here has no end");
      if (c == '\'') break;
      if (c == '\n') ++line_;
      if (c == '\\')
        escape(value);
      else
        value += c;
    }
    ++at_;
    out_.push_back({kind, value, 0, begin_line});
  }

  void add_letter(std::string& to, std::uint32_t code) {
    if (code < 0x80) {
      to += static_cast<char>(code);
    } else if (code < 0x800) {
      to += static_cast<char>(0xC0U | (code >> 6U));
      to += static_cast<char>(0x80U | (code & 0x3FU));
    } else if (code < 0x10000) {
      to += static_cast<char>(0xE0U | (code >> 12U));
      to += static_cast<char>(0x80U | ((code >> 6U) & 0x3FU));
      to += static_cast<char>(0x80U | (code & 0x3FU));
    } else if (code < 0x110000) {
      to += static_cast<char>(0xF0U | (code >> 18U));
      to += static_cast<char>(0x80U | ((code >> 12U) & 0x3FU));
      to += static_cast<char>(0x80U | ((code >> 6U) & 0x3FU));
      to += static_cast<char>(0x80U | (code & 0x3FU));
    }
  }

  // At the backslash; leaves the place at the last letter of what it stands before.
  void escape(std::string& to) {
    const char c = look(1);
    const auto code = [&](std::size_t from, std::size_t most, int base, std::size_t& used) {
      std::string digits;
      while (digits.size() < most) {
        const char d = look(from + digits.size());
        const bool is_digit = base == 16 ? std::isxdigit(static_cast<unsigned char>(d)) != 0 : d >= '0' && d <= '7';
        if (!is_digit) break;
        digits += d;
      }
      used = digits.size();
      return digits.empty() ? 0U : static_cast<std::uint32_t>(std::stoul(digits, nullptr, base));
    };
    std::size_t used = 0;
    switch (c) {
      case 'n': to += '\n'; break;
      case 't': to += '\t'; break;
      case 'r': to += '\r'; break;
      case 'a': to += '\a'; break;
      case 'b': to += '\b'; break;
      case 'f': to += '\f'; break;
      case 'v': to += '\v'; break;
      case '\\': to += '\\'; break;
      case '\'': to += '\''; break;
      case 'x':
      case 'u':
      case 'U': {
        const std::size_t most = c == 'x' ? 2 : c == 'u' ? 4 : 8;
        const auto value = code(2, most, 16, used);
        if (used != most) {
          to += "\\";
          return;
        }
        add_letter(to, value);
        at_ += used;
        break;
      }
      default:
        if (c >= '0' && c <= '7') {
          add_letter(to, code(1, 3, 8, used));
          at_ += used;
          return;
        }
        to += '\\';  // it stands for itself
        return;
    }
    ++at_;
  }

  void sign() {
    for (const char* two : {"+=", "==", "!=", "<=", ">="}) {
      if (text_.compare(at_, 2, two) == 0) {
        add(Token::Kind::sign, two);
        at_ += 2;
        return;
      }
    }
    const char c = text_[at_];
    if (std::string_view("+-*/%=<>?:,.()[]{}").find(c) == std::string_view::npos)
      wrong(shown_, line_, "'" + text::printable_line(std::string(1, c)) + "' is not expected here");
    if (c == '(' || c == '[' || c == '{') ++open_;
    if ((c == ')' || c == ']' || c == '}') && open_ > 0) --open_;
    add(Token::Kind::sign, std::string(1, c));
    ++at_;
  }

  const std::string& text_;
  const std::string& shown_;
  std::size_t at_ = 0;
  int line_ = 1;
  int open_ = 0;
  std::vector<Token> out_;
};

class Parser {
 public:
  Parser(std::vector<Token> tokens, const std::string& shown) : tokens_(std::move(tokens)), shown_(shown) {}

  std::vector<Statement> run() {
    auto out = statements({});
    if (now().kind != Token::Kind::end) unexpected();
    return out;
  }

 private:
  [[nodiscard]] const Token& now() const { return tokens_[at_]; }
  [[nodiscard]] bool is(const char* text) const {
    return (now().kind == Token::Kind::sign || now().kind == Token::Kind::name) && now().text == text;
  }
  bool take(const char* text) {
    if (!is(text)) return false;
    ++at_;
    return true;
  }
  void want(const char* text) {
    if (!take(text)) unexpected(std::string("'") + text + "' is expected");
  }
  [[noreturn]] void unexpected(const std::string& cause = {}) const {
    const auto& token = now();
    const std::string what = token.kind == Token::Kind::end ? "the file ends too early"
                             : token.kind == Token::Kind::line_end
                                 ? "the line ends too early"
                                 : "'" + text::clip(text::printable_line(token.text), 40) + "' is not expected here";
    wrong(shown_, token.line, what, cause);
  }

  struct Level {
    explicit Level(Parser& of) : parser(of) {
      if (++parser.level_ > most_levels)
        wrong(parser.shown_, parser.now().line,
              "more than " + std::to_string(most_levels) + " things are nested in each other here");
    }
    ~Level() { --parser.level_; }
    Level(const Level&) = delete;
    Level& operator=(const Level&) = delete;
    Parser& parser;
  };

  std::vector<Statement> statements(const std::set<std::string>& ends) {
    const Level level(*this);
    std::vector<Statement> out;
    for (;;) {
      while (now().kind == Token::Kind::line_end) ++at_;
      if (now().kind == Token::Kind::end) return out;
      if (now().kind == Token::Kind::name && ends.contains(now().text)) return out;
      out.push_back(statement());
      if (now().kind != Token::Kind::line_end && now().kind != Token::Kind::end) unexpected();
    }
  }

  Statement statement() {
    Statement out;
    out.line = now().line;
    if (take("if")) {
      out.kind = Statement::Kind::branch;
      do {
        auto condition = expression();
        out.bodies.emplace_back(std::move(condition), statements({"elif", "else", "endif"}));
      } while (take("elif"));
      if (take("else")) out.bodies.emplace_back(nullptr, statements({"endif"}));
      want("endif");
    } else if (take("foreach")) {
      out.kind = Statement::Kind::loop;
      do out.names.push_back(name());
      while (take(","));
      want(":");
      out.value = expression();
      ++loops_;
      out.bodies.emplace_back(nullptr, statements({"endforeach"}));
      --loops_;
      want("endforeach");
    } else if (loops_ == 0 && (is("break") || is("continue"))) {
      wrong(shown_, out.line, "'" + now().text + "' stands outside of a loop");
    } else if (take("break")) {
      out.kind = Statement::Kind::leave_loop;
    } else if (take("continue")) {
      out.kind = Statement::Kind::next_round;
    } else {
      out.value = expression();
      const bool assigns = is("=");
      if (assigns || is("+=")) {
        if (out.value->kind != Node::Kind::name) unexpected("only a name can be assigned to");
        ++at_;
        out.kind = assigns ? Statement::Kind::assign : Statement::Kind::add;
        out.names = {out.value->text};
        out.value = expression();
      }
    }
    return out;
  }

  std::string name() {
    if (now().kind != Token::Kind::name) unexpected("a name is expected");
    return tokens_[at_++].text;
  }

  NodePtr make(Node::Kind kind, std::string text = {}) const {
    auto out = std::make_unique<Node>();
    out->kind = kind;
    out->text = std::move(text);
    out->line = now().line;
    return out;
  }
  NodePtr operation(std::string sign, NodePtr left, NodePtr right) const {
    auto out = make(Node::Kind::operation, std::move(sign));
    out->line = left->line;
    out->children.push_back(std::move(left));
    if (right) out->children.push_back(std::move(right));
    return deeper(std::move(out));
  }
  // Notes how deep it goes.
  NodePtr deeper(NodePtr node) const {
    for (const auto& child : node->children) node->depth = std::max(node->depth, child->depth + 1);
    if (node->depth > most_depth)
      wrong(shown_, node->line, "more than " + std::to_string(most_depth) + " operations follow one another here",
            "each works on what the one before it gives");
    return node;
  }

  NodePtr expression() {
    const Level level(*this);
    auto left = disjunction();
    if (!is("?")) return left;
    auto out = make(Node::Kind::choice);
    ++at_;
    out->children.push_back(std::move(left));
    out->children.push_back(expression());
    want(":");
    out->children.push_back(expression());
    return out;
  }
  NodePtr disjunction() {
    auto left = conjunction();
    while (take("or")) left = operation("or", std::move(left), conjunction());
    return left;
  }
  NodePtr conjunction() {
    auto left = comparison();
    while (take("and")) left = operation("and", std::move(left), comparison());
    return left;
  }
  NodePtr comparison() {
    auto left = sum();
    for (const char* sign : {"==", "!=", "<=", ">=", "<", ">", "in"}) {
      if (take(sign)) return operation(sign, std::move(left), sum());
    }
    if (is("not") && tokens_[at_ + 1].kind == Token::Kind::name && tokens_[at_ + 1].text == "in") {
      at_ += 2;
      return operation("not in", std::move(left), sum());
    }
    return left;
  }
  NodePtr sum() {
    auto left = product();
    for (;;) {
      if (take("+"))
        left = operation("+", std::move(left), product());
      else if (take("-"))
        left = operation("-", std::move(left), product());
      else
        return left;
    }
  }
  NodePtr product() {
    auto left = unary();
    for (;;) {
      bool more = false;
      for (const char* sign : {"*", "/", "%"}) {
        if (!take(sign)) continue;
        left = operation(sign, std::move(left), unary());
        more = true;
      }
      if (!more) return left;
    }
  }
  NodePtr unary() {
    const Level level(*this);
    if (take("not")) return operation("not", unary(), nullptr);
    if (take("-")) return operation("-", unary(), nullptr);
    return postfix();
  }

  NodePtr postfix() {
    auto out = primary();
    for (;;) {
      if (out->kind == Node::Kind::name && is("(")) {
        auto call = make(Node::Kind::call, out->text);
        call->line = out->line;
        ++at_;
        arguments(*call);
        out = std::move(call);
      } else if (take(".")) {
        auto call = make(Node::Kind::method, name());
        call->children.push_back(std::move(out));
        want("(");
        arguments(*call);
        out = deeper(std::move(call));
      } else if (is("[")) {
        auto index = make(Node::Kind::index);
        ++at_;
        index->children.push_back(std::move(out));
        index->children.push_back(expression());
        want("]");
        out = deeper(std::move(index));
      } else {
        return out;
      }
    }
  }

  void arguments(Node& call) {
    while (!take(")")) {
      if (now().kind == Token::Kind::name && tokens_[at_ + 1].kind == Token::Kind::sign &&
          tokens_[at_ + 1].text == ":") {
        std::string key = name();
        want(":");
        call.named.emplace_back(std::move(key), expression());
      } else {
        call.children.push_back(expression());
      }
      if (take(",")) continue;
      want(")");
      return;
    }
  }

  NodePtr primary() {
    const Token token = now();
    if (token.kind == Token::Kind::text || token.kind == Token::Kind::format) {
      auto out = make(token.kind == Token::Kind::text ? Node::Kind::text : Node::Kind::format, token.text);
      ++at_;
      return out;
    }
    if (token.kind == Token::Kind::number) {
      auto out = make(Node::Kind::number);
      out->number = token.number;
      ++at_;
      return out;
    }
    if (token.kind == Token::Kind::name) {
      if (token.text == "true" || token.text == "false") {
        auto out = make(Node::Kind::boolean);
        out->number = token.text == "true" ? 1 : 0;
        ++at_;
        return out;
      }
      static const std::set<std::string> words = {"if",  "elif", "else", "endif", "foreach", "endforeach",
                                                  "and", "or",   "not",  "in",    "break",   "continue"};
      if (words.contains(token.text)) unexpected();
      auto out = make(Node::Kind::name, token.text);
      ++at_;
      return out;
    }
    if (take("(")) {
      auto out = expression();
      want(")");
      // What stands in brackets is no name to be assigned to or called.
      if (out->kind != Node::Kind::name) return out;
      auto whole = make(Node::Kind::operation, "()");
      whole->children.push_back(std::move(out));
      return whole;
    }
    if (is("[")) {
      auto out = make(Node::Kind::array);
      ++at_;
      while (!take("]")) {
        out->children.push_back(expression());
        if (take(",")) continue;
        want("]");
        break;
      }
      return out;
    }
    if (is("{")) {
      auto out = make(Node::Kind::dictionary);
      ++at_;
      while (!take("}")) {
        auto key = expression();
        want(":");
        out->keyed.emplace_back(std::move(key), expression());
        if (take(",")) continue;
        want("}");
        break;
      }
      return out;
    }
    unexpected();
  }

  std::vector<Token> tokens_;
  const std::string& shown_;
  std::size_t at_ = 0;
  int level_ = 0;
  int loops_ = 0;  // that are open
};

}  // namespace

std::vector<Statement> parse(const std::string& text, const std::string& shown) {
  return Parser(Lexer(text, shown).run(), shown).run();
}

}  // namespace coctilis::describe::meson_build
