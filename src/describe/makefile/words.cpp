#include "describe/makefile/words.h"

#include <algorithm>

#include "base/text.h"

namespace coctilis::describe::makefile {

std::size_t end_of_bracket(std::string_view text, std::size_t at) {
  const char open = text[at];
  const char close = open == '(' ? ')' : '}';
  int depth = 0;
  for (std::size_t i = at; i < text.size(); ++i) {
    if (text[i] == open) ++depth;
    if (text[i] == close && --depth == 0) return i + 1;
  }
  return std::string_view::npos;
}

std::size_t end_of_reference(std::string_view text, std::size_t at) {
  if (at + 1 >= text.size()) return text.size();
  const char next = text[at + 1];
  if (next != '(' && next != '{') return at + 2;
  return std::min(end_of_bracket(text, at + 1), text.size());
}

std::string joined_references(std::string_view text) {
  if (text.find("\\\n") == std::string_view::npos) return std::string(text);
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] != '$' || i + 1 >= text.size() || (text[i + 1] != '(' && text[i + 1] != '{')) {
      out += text[i];
      if (text[i] == '$' && i + 1 < text.size()) out += text[++i];
      continue;
    }
    const auto end = end_of_reference(text, i);
    for (; i < end; ++i) {
      if (text[i] == '\\' && i + 1 < end && text[i + 1] == '\n') {
        while (!out.empty() && (out.back() == ' ' || out.back() == '\t')) out.pop_back();
        ++i;
        while (i + 1 < end && (text[i + 1] == ' ' || text[i + 1] == '\t')) ++i;
        out += ' ';
      } else {
        out += text[i];
      }
    }
    --i;
  }
  return out;
}

std::size_t comma_outside(std::string_view text, std::size_t from) {
  int round = 0;
  int curly = 0;
  for (std::size_t i = from; i < text.size(); ++i) {
    switch (text[i]) {
      case '(': ++round; break;
      case ')': --round; break;
      case '{': ++curly; break;
      case '}': --curly; break;
      case ',':
        if (round <= 0 && curly <= 0) return i;
        break;
      default: break;
    }
  }
  return std::string_view::npos;
}

namespace {
// Where the '%' that counts stands; `plain` gets the text before and behind it with "\%" unescaped.
bool split_pattern(const std::string& pattern, std::string& before, std::string& behind) {
  before.clear();
  for (std::size_t i = 0; i < pattern.size(); ++i) {
    if (pattern[i] == '\\' && i + 1 < pattern.size() && (pattern[i + 1] == '%' || pattern[i + 1] == '\\')) {
      // A backslash stands for itself unless it leads to a '%'.
      std::size_t run = i;
      while (run < pattern.size() && pattern[run] == '\\') ++run;
      const std::size_t count = run - i;
      if (run < pattern.size() && pattern[run] == '%') {
        before.append(count / 2, '\\');
        if (count % 2 == 1) {
          before += '%';
          i = run;
        } else {
          behind = pattern.substr(run + 1);
          return true;
        }
      } else {
        before.append(count, '\\');
        i = run - 1;
      }
    } else if (pattern[i] == '%') {
      behind = pattern.substr(i + 1);
      return true;
    } else {
      before += pattern[i];
    }
  }
  return false;
}
}  // namespace

bool match_pattern(const std::string& pattern, const std::string& text, std::string& stem) {
  std::string before;
  std::string behind;
  if (!split_pattern(pattern, before, behind)) {
    stem.clear();
    return before == text;
  }
  if (text.size() < before.size() + behind.size() || !text.starts_with(before) || !text.ends_with(behind)) return false;
  stem = text.substr(before.size(), text.size() - before.size() - behind.size());
  return true;
}

std::pair<std::string, std::string> divide_pattern(const std::string& pattern) {
  std::pair<std::string, std::string> out;
  split_pattern(pattern, out.first, out.second);
  return out;
}

std::string fill_pattern(const std::string& pattern, const std::string& stem) {
  std::string before;
  std::string behind;
  if (!split_pattern(pattern, before, behind)) return before;
  return before + stem + behind;
}

std::string late_with_stem(const std::string& text) {
  std::vector<std::string> words = text::words(text);
  for (auto& word : words) {
    if (const auto at = word.find('%'); at != std::string::npos) word.replace(at, 1, "$*");
  }
  return text::join(words, " ");
}

std::string replace_pattern(const std::string& word, const std::string& pattern, const std::string& by) {
  std::string stem;
  if (!match_pattern(pattern, word, stem)) return word;
  if (pattern.find('%') == std::string::npos) return by;
  return fill_pattern(by, stem);
}

std::string plain_name(std::string_view name) {
  while (name.size() > 2 && name.starts_with("./")) {
    name.remove_prefix(2);
    while (name.size() > 1 && name.starts_with('/')) name.remove_prefix(1);
  }
  return std::string(name);
}

bool split_member(const std::string& name, std::string& archive, std::string& member) {
  const auto open = name.find('(');
  if (open == std::string::npos || open == 0 || !name.ends_with(')') || open + 2 >= name.size()) return false;
  archive = name.substr(0, open);
  member = name.substr(open + 1, name.size() - open - 2);
  return true;
}

std::vector<std::string> names_in(const std::string& list) {
  std::vector<std::string> out;
  std::string archive;  // whose bracket is open
  for (auto& word : text::words(list)) {
    if (archive.empty()) {
      const auto open = word.find('(');
      if (open == std::string::npos || open == 0 || word.find(')', open) != std::string::npos) {
        out.push_back(std::move(word));
        continue;
      }
      archive = word.substr(0, open);
      word.erase(0, open + 1);
    }
    const bool last = word.ends_with(')');
    if (last) word.pop_back();
    if (!word.empty()) out.push_back(archive + "(" + word + ")");
    if (last) archive.clear();
  }
  return out;
}

void split_prerequisites(const std::string& list, std::vector<std::string>& normal,
                         std::vector<std::string>& order_only) {
  bool order = false;
  for (const auto& word : names_in(list)) {
    if (word == "|")
      order = true;
    else if (word != ".WAIT")
      (order ? order_only : normal).push_back(plain_name(word));
  }
}

// What stands left and right of an assignment's operator; false when the text is none. `name` is not expanded.
bool split_assignment(std::string_view text, std::string& name, Assign& how, std::string& value) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '$' && i + 1 < text.size()) {
      i = end_of_reference(text, i) - 1;
      continue;
    }
    std::size_t length = 0;
    if (c == '=') {
      how = Assign::recursive;
      length = 1;
    } else if (c == ':') {
      if (text.substr(i, 2) == ":=" || text.substr(i, 3) == "::=") {
        how = Assign::simple;
        length = text[i + 1] == '=' ? 2 : 3;
      } else if (text.substr(i, 4) == ":::=") {
        how = Assign::expanded_once;
        length = 4;
      } else {
        return false;
      }
    } else if ((c == '+' || c == '?' || c == '!') && text.substr(i + 1, 1) == "=") {
      how = c == '+' ? Assign::append : c == '?' ? Assign::if_unset : Assign::shell;
      length = 2;
    } else {
      continue;
    }
    name = std::string(text::trim(text.substr(0, i)));
    value = std::string(text.substr(i + length));
    value.erase(0, std::min(value.find_first_not_of(" \t"), value.size()));
    // A name of several words is no name.
    for (std::size_t k = 0; k < name.size(); ++k) {
      if (name[k] == '$' && k + 1 < name.size())
        k = end_of_reference(name, k) - 1;
      else if (name[k] == ' ' || name[k] == '\t')
        return false;
    }
    return !name.empty();
  }
  return false;
}

std::size_t colon_of_rule(std::string_view text) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '$' && i + 1 < text.size()) {
      i = end_of_reference(text, i) - 1;
    } else if (text[i] == '\\' && i + 1 < text.size()) {
      ++i;
    } else if (text[i] == ':') {
      return i;
    } else if (text[i] == ';') {
      return std::string_view::npos;
    }
  }
  return std::string_view::npos;
}

std::size_t outside(std::string_view text, char wanted) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text[i] == '$' && i + 1 < text.size())
      i = end_of_reference(text, i) - 1;
    else if (text[i] == wanted)
      return i;
  }
  return std::string_view::npos;
}

// Takes the first word off the text.
std::string first_word(std::string& text) {
  const auto end = std::min(text.find_first_of(" \t"), text.size());
  std::string word = text.substr(0, end);
  text.erase(0, std::min(text.find_first_not_of(" \t", end), text.size()));
  return word;
}

bool starts_with_operator(std::string_view rest) {
  for (const char* sign : {"=", ":=", "::=", ":::=", "+=", "?=", "!=", ":"}) {
    if (rest.starts_with(sign)) return true;
  }
  return false;
}

}  // namespace coctilis::describe::makefile
