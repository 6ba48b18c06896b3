// The regular expressions of the language: ^ $ . [...] * + ? | ( ) and a backslash before what is meant literally.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis::describe::listfile {

class Regex {
 public:
  // Throws std::invalid_argument with the reason when the pattern cannot be read.
  explicit Regex(const std::string& pattern);
  ~Regex();
  Regex(const Regex&) = delete;
  Regex& operator=(const Regex&) = delete;

  struct Match {
    std::size_t begin = 0;
    std::size_t end = 0;
    std::vector<std::string> groups;  // group 0 is the whole; groups that did not take part are empty
  };
  // The first match at or after `from`; false if there is none. With `rebase`, ^ matches at `from`.
  bool search(std::string_view text, std::size_t from, Match& match, bool rebase = true) const;
  [[nodiscard]] bool matches(std::string_view text) const {
    Match match;
    return search(text, 0, match);
  }

 private:
  struct Engine;
  std::unique_ptr<Engine> engine_;
};

// The expression; null when it cannot be read.
[[nodiscard]] std::unique_ptr<Regex> readable_regex(const std::string& pattern);

// Replaces all matches; \0..\9 in `replacement` stand for groups. Throws like the constructor.
[[nodiscard]] std::string regex_replace(const Regex& regex, const std::string& replacement, std::string_view input);

}  // namespace coctilis::describe::listfile
