// Conditions of if() and while(): parentheses, then unary tests, then comparisons, then NOT, then AND, then OR.
#include <sys/stat.h>

#include <stdexcept>

#include "base/files.h"
#include "base/lists.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile {

namespace {

class Condition {
 public:
  Condition(Evaluator& e, const std::vector<Word>& words, const Place& place) : e_(e), words_(words), place_(place) {}

  bool whole() {
    if (words_.empty()) return false;  // a variable that is not set leaves nothing behind
    const bool result = either();
    if (at_ < words_.size())
      e_.fail(place_, "'" + words_[at_].text + "' is not expected here in a condition",
              "check operators and parentheses", shown());
    return result;
  }

 private:
  [[nodiscard]] std::string shown() const {
    std::string out = "the condition reads:";
    for (const auto& word : words_) out += word.quoted ? " \"" + word.text + "\"" : " " + word.text;
    return text::clip(text::printable_line(out), 300);
  }
  [[nodiscard]] bool is(std::size_t at, const char* keyword) const {
    return at < words_.size() && !words_[at].quoted && words_[at].text == keyword;
  }

  bool either() {
    bool result = both();
    while (is(at_, "OR")) {
      ++at_;
      const bool right = both();
      result = result || right;
    }
    return result;
  }
  bool both() {
    bool result = negation();
    while (is(at_, "AND")) {
      ++at_;
      const bool right = negation();
      result = result && right;
    }
    return result;
  }
  bool negation() {
    if (++depth_ > 500) e_.fail(place_, "a condition is nested more than 500 deep", "divide it");
    const bool result = negated();
    --depth_;
    return result;
  }
  bool negated() {
    // Comparisons bind closer, even to a word that reads NOT.
    const bool compared = at_ + 2 < words_.size() && is_binary(words_[at_ + 1]);
    if (is(at_, "NOT") && at_ + 1 < words_.size() && !compared) {
      ++at_;
      return !negation();
    }
    return test();
  }

  static bool is_binary(const Word& word) {
    static const std::set<std::string> operators = {
        "EQUAL",         "LESS",         "GREATER",         "LESS_EQUAL",         "GREATER_EQUAL",
        "STREQUAL",      "STRLESS",      "STRGREATER",      "STRLESS_EQUAL",      "STRGREATER_EQUAL",
        "VERSION_EQUAL", "VERSION_LESS", "VERSION_GREATER", "VERSION_LESS_EQUAL", "VERSION_GREATER_EQUAL",
        "MATCHES",       "IN_LIST",      "IS_NEWER_THAN",   "PATH_EQUAL"};
    return !word.quoted && operators.contains(word.text);
  }

  bool test() {
    if (at_ >= words_.size())
      e_.fail(place_, "a condition ends too early", "an operator lacks what comes after it", shown());
    if (is(at_, "(")) {
      ++at_;
      const bool result = either();
      if (!is(at_, ")")) e_.fail(place_, "a parenthesis in a condition is not closed", "add ')'", shown());
      ++at_;
      return result;
    }
    // A variable that is not set may leave one side of a match empty: nothing matches then.
    const bool no_left = is(at_, "MATCHES") && at_ + 1 < words_.size() && !is_binary(words_[at_ + 1]);
    const bool no_right = is(at_ + 1, "MATCHES") && at_ + 2 >= words_.size();
    if (no_left || no_right) {
      e_.warn(place_, std::string("MATCHES has nothing on its ") + (no_left ? "left" : "right") +
                          " here; it is taken for false");
      at_ += 2;
      return false;
    }
    if (at_ + 1 < words_.size() && is_binary(words_[at_ + 1])) {
      if (at_ + 2 >= words_.size())
        e_.fail(place_, "'" + words_[at_ + 1].text + "' has nothing on its right",
                "put a variable that may be empty in quotes", shown());
      const Word left = words_[at_];
      const std::string operation = words_[at_ + 1].text;
      // Parentheses are worked out first, also where a text is meant.
      if (is(at_ + 2, "(")) {
        at_ += 3;
        const bool inner = either();
        if (!is(at_, ")")) e_.fail(place_, "a parenthesis in a condition is not closed", "add ')'", shown());
        ++at_;
        return chained(compare(left, operation, {inner ? "1" : "0", true}));
      }
      const Word right = words_[at_ + 2];
      at_ += 3;
      return chained(compare(left, operation, right));
    }
    const Word& word = words_[at_];
    if (!word.quoted && at_ + 1 < words_.size()) {
      if (const auto result = unary(word.text, words_[at_ + 1].text)) {
        at_ += 2;
        return *result;
      }
    }
    ++at_;
    return truth(word);
  }

  // What comes of a comparison, as a text, may be the left side of the next one.
  bool chained(bool result) {
    while (at_ + 1 < words_.size() && is_binary(words_[at_])) {
      const std::string operation = words_[at_].text;
      const Word right = words_[at_ + 1];
      at_ += 2;
      result = compare({result ? "1" : "0", true}, operation, right);
    }
    return result;
  }

  std::optional<bool> unary(const std::string& operation, const std::string& operand) {
    if (operation == "EXISTS") return !operand.empty() && files::exists(operand);
    if (operation == "IS_DIRECTORY") return files::is_folder(operand);
    if (operation == "IS_SYMLINK") return files::is_link(operand);
    if (operation == "IS_ABSOLUTE") return operand.starts_with('/') || operand.starts_with('~');
    if (operation == "COMMAND") return e_.is_command(operand);
    if (operation == "TARGET") return e_.target(operand) != nullptr;
    if (operation == "TEST") {
      return std::any_of(e_.project.tests.begin(), e_.project.tests.end(),
                         [&](const auto& test) { return test.name == operand; });
    }
    if (operation == "POLICY") {
      if (!operand.starts_with("CMP")) return false;
      const int number = std::atoi(operand.c_str() + 3);
      return number >= 0 && number <= newest_policy;
    }
    if (operation == "DEFINED") {
      if (operand.starts_with("ENV{") && operand.ends_with('}')) {
        bool set = false;
        (void)e_.environment_value(operand.substr(4, operand.size() - 5), &set);
        return set;
      }
      if (operand.starts_with("CACHE{") && operand.ends_with('}'))
        return e_.cache.contains(operand.substr(6, operand.size() - 7));
      return e_.find(operand) != nullptr;
    }
    return std::nullopt;
  }

  // What a word stands for: the value of the variable of that name if there is one, else itself.
  [[nodiscard]] std::string operand(const Word& word) const {
    if (word.quoted && e_.policy_is_new(54)) return word.text;
    const std::string* found = e_.find(word.text);
    return found == nullptr ? word.text : *found;
  }

  bool truth(const Word& word) {
    if (is_true(word.text)) return true;
    if (is_false(word.text)) return false;
    if (word.quoted && e_.policy_is_new(54)) return false;
    const std::string* found = e_.find(word.text);
    return found != nullptr && !is_false(*found);
  }

  static std::optional<double> number(const std::string& text) {
    char* end = nullptr;
    const double value = std::strtod(text.c_str(), &end);
    // What follows the number does not count.
    if (end == text.c_str()) return std::nullopt;
    return value;
  }

  bool compare(const Word& left, const std::string& operation, const Word& right) {
    const std::string a = operand(left);
    if (operation == "MATCHES") {
      try {
        const Regex regex(right.text);
        Regex::Match match;
        const bool hit = regex.search(a, 0, match);
        for (std::size_t i = 0; i < 10; ++i)
          e_.set("CMAKE_MATCH_" + std::to_string(i), hit && i < match.groups.size() ? match.groups[i] : "");
        e_.set("CMAKE_MATCH_COUNT", std::to_string(hit ? match.groups.size() - 1 : 0));
        return hit;
      } catch (const std::invalid_argument& error) {
        e_.fail(place_, "the pattern '" + text::printable_line(right.text) + "' cannot be read", "check it",
                error.what());
      }
    }
    if (operation == "IN_LIST") {
      const auto elements = list_elements(e_.value(right.text));
      return std::find(elements.begin(), elements.end(), a) != elements.end();
    }
    const std::string b = operand(right);
    if (operation == "IS_NEWER_THAN") {
      observe::content(a);
      observe::content(b);
      struct stat x {};
      struct stat y {};
      if (::stat(a.c_str(), &x) != 0 || ::stat(b.c_str(), &y) != 0) return true;
      return std::make_pair(x.st_mtim.tv_sec, x.st_mtim.tv_nsec) >= std::make_pair(y.st_mtim.tv_sec, y.st_mtim.tv_nsec);
    }
    if (operation == "PATH_EQUAL")
      return std::filesystem::path(a).lexically_normal() == std::filesystem::path(b).lexically_normal();
    const auto ordered = [](const std::string& kind, int order) {
      if (kind.ends_with("LESS_EQUAL")) return order <= 0;
      if (kind.ends_with("GREATER_EQUAL")) return order >= 0;
      if (kind.ends_with("EQUAL")) return order == 0;
      return kind.ends_with("LESS") ? order < 0 : order > 0;
    };
    if (operation.starts_with("STR")) return ordered(operation, a.compare(b));
    if (operation.starts_with("VERSION_")) return ordered(operation, text::compare_versions(a, b));
    const auto x = number(a);
    const auto y = number(b);
    if (!x || !y) return false;
    return ordered(operation, *x < *y ? -1 : *x > *y ? 1 : 0);
  }

  Evaluator& e_;
  const std::vector<Word>& words_;
  const Place& place_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

bool Evaluator::condition(const std::vector<Word>& words, const Place& place) {
  return Condition(*this, words, place).whole();
}

}  // namespace coctilis::describe::listfile
