#include "describe/go/module.h"

#include <cctype>
#include <cstdlib>

#include "base/text.h"

namespace coctilis::describe::go {

namespace {

// The words of a line; those in quotes without these, comments left out.
std::vector<std::string> words_of(const std::string& line) {
  std::vector<std::string> out;
  for (std::size_t i = 0; i < line.size();) {
    if (line[i] == ' ' || line[i] == '\t' || line[i] == '\r') {
      ++i;
    } else if (line.compare(i, 2, "//") == 0) {
      break;
    } else if (line[i] == '"' || line[i] == '`') {
      const auto end = line.find(line[i], i + 1);
      out.push_back(line.substr(i + 1, end == std::string::npos ? end : end - i - 1));
      i = end == std::string::npos ? line.size() : end + 1;
    } else if (line[i] == '(' || line[i] == ')') {
      out.emplace_back(1, line[i++]);
    } else {
      const auto begin = i;
      while (i < line.size() && line[i] != ' ' && line[i] != '\t' && line[i] != '\r' && line[i] != '(' &&
             line[i] != ')')
        ++i;
      out.push_back(line.substr(begin, i - begin));
    }
  }
  return out;
}

}  // namespace

ModuleFile read_module_file(std::string_view text, const std::string& shown) {
  ModuleFile out;
  std::string block;
  int number = 0;
  for (const auto& line : text::split(std::string(text), '\n')) {
    ++number;
    auto words = words_of(line);
    if (words.empty()) continue;
    const Place place{shown, number, 0};
    const auto wrong = [&](const std::string& what) {
      throw Fault({Exit::description, place, what, {}, "mend the line", {}});
    };
    if (!block.empty() && words.front() == ")") {
      block.clear();
      continue;
    }
    if (block.empty() && words.size() > 1 && words[1] == "(") {
      block = words.front();
      continue;
    }
    std::string verb = block;
    if (verb.empty()) {
      verb = words.front();
      words.erase(words.begin());
    }
    if (words.empty()) wrong("'" + text::printable_line(verb) + "' says nothing");
    if (verb == "module") {
      out.path = words.front();
    } else if (verb == "go") {
      out.minor = words.front().starts_with("1.") ? std::atoi(words.front().c_str() + 2) : 0;
      out.go_place = place;
      if (out.minor <= 0) wrong("'" + text::printable_line(words.front()) + "' is no release of the language");
    } else if (verb == "require") {
      if (words.size() < 2) wrong("a requirement has a module and its version");
      out.requires_[words[0]] = {words[1], place};
    } else if (verb == "replace") {
      std::size_t arrow = 0;
      while (arrow < words.size() && words[arrow] != "=>") ++arrow;
      if (arrow == 0 || arrow + 1 >= words.size()) wrong("a replacement is written: module => another");
      out.replaces[words[0]] = {words[arrow + 1], arrow + 2 < words.size() ? words[arrow + 2] : "", place};
    } else if (verb == "use") {
      out.uses.emplace_back(words.front(), place);
    } else if (verb != "exclude" && verb != "retract" && verb != "toolchain" && verb != "godebug" && verb != "tool" &&
               verb != "ignore") {
      wrong("'" + text::printable_line(verb) + "' is not known here");
    }
  }
  return out;
}

std::string escaped_path(const std::string& path) {
  std::string out;
  for (const char c : path) {
    if (std::isupper(static_cast<unsigned char>(c)) != 0) {
      out += '!';
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    } else {
      out += c;
    }
  }
  return out;
}

}  // namespace coctilis::describe::go
