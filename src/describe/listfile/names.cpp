#include "describe/listfile/names.h"

#include <re2/re2.h>

#include <functional>
#include <map>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/listfile/language.h"

namespace coctilis::describe::listfile {

namespace {

using survey::Names;

class Look {
 public:
  explicit Look(Names& names) : names_(names) {}

  void body(const Body& body) {
    for (const auto& node : body) {
      call(node.call);
      this->body(node.body);
      for (const auto& branch : node.branches) this->body(branch.body);
    }
  }

 private:
  using Words = std::vector<std::string>;

  // Words whose references are known from a plain set() before; others are left out, but for the first, which is empty
  // then.
  Words words_of(const Call& call) const {
    Words out;
    for (const auto& argument : call.arguments) {
      std::string text = argument.text;
      static const RE2 reference(R"(\$\{([A-Za-z0-9_]+)\})");
      std::string name;
      for (int i = 0; i < 10 && RE2::PartialMatch(text, reference, &name); ++i) {
        const auto value = values_.find(name);
        if (value == values_.end()) break;
        text = text::replace_all(text, "${" + name + "}", value->second);
      }
      for (auto& word : text::split(text, ';')) {
        if (!word.empty() && word.find('$') == std::string::npos)
          out.push_back(std::move(word));
        else if (out.empty())
          out.emplace_back();
      }
    }
    return out;
  }

  static bool is_key(const std::string& word) { return RE2::FullMatch(word, "[A-Z][A-Z_]+"); }

  void ask(const std::string& name, int line, std::string constraint = {}) {
    names_.asked.push_back({name, std::move(constraint), line});
  }

  void call(const Call& call) {
    const auto words = words_of(call);
    if (words.empty()) return;
    static const std::map<std::string, void (Look::*)(const Words&, int)> table = {
        {"project", &Look::project},
        {"set", &Look::set},
        {"add_library", &Look::target},
        {"add_executable", &Look::target},
        {"find_package", &Look::package},
        {"find_dependency", &Look::package},
        {"find_library", &Look::found},
        {"find_program", &Look::found},
        {"pkg_check_modules", &Look::modules},
        {"pkg_search_module", &Look::modules},
        {"target_link_libraries", &Look::linked},
        {"link_libraries", &Look::linked},
        {"install", &Look::install}};
    const auto known = table.find(call.name);
    if (known == table.end() || (words.front().empty() && !links(call.name))) return;
    (this->*known->second)(words, call.line);
  }

  // Commands whose first word is one of several.
  static bool links(const std::string& name) { return name == "target_link_libraries" || name == "link_libraries"; }

  void project(const Words& words, int) {
    values_["PROJECT_NAME"] = words.front();
    if (!values_.contains("CMAKE_PROJECT_NAME")) values_["CMAKE_PROJECT_NAME"] = words.front();
    names_.given.push_back(words.front());
    for (std::size_t i = 1; i + 1 < words.size(); ++i) {
      if (words[i] == "VERSION" && names_.version.empty()) names_.version = words[i + 1];
    }
  }
  void set(const Words& words, int) {
    if (words.size() == 2) values_[words[0]] = words[1];
  }
  void target(const Words& words, int) {
    if (words.size() > 1 && (words[1] == "ALIAS" || words[1] == "IMPORTED")) return;
    for (const auto& word : words) {
      if (word == "IMPORTED") return;
    }
    names_.given.push_back(words.front());
  }
  void package(const Words& words, int line) {
    const bool version = words.size() > 1 && RE2::FullMatch(words[1], "[0-9][0-9.]*");
    ask(words.front(), line, version ? ">= " + words[1] : "");
  }
  void found(const Words& words, int line) {
    static const std::set<std::string> ends = {"PATHS", "HINTS",    "PATH_SUFFIXES",   "DOC",
                                               "ENV",   "REQUIRED", "NO_DEFAULT_PATH", "VALIDATOR"};
    for (std::size_t i = 1; i < words.size() && !ends.contains(words[i]); ++i) {
      if (!is_key(words[i]) && words[i].find('/') == std::string::npos) ask(words[i], line);
    }
  }
  void modules(const Words& words, int line) {
    static const RE2 module(R"(([A-Za-z0-9_.+-]+?)((?:[<>]=?|=)[0-9].*)?)");
    for (std::size_t i = 1; i < words.size(); ++i) {
      std::string name;
      std::string constraint;
      if (!is_key(words[i]) && RE2::FullMatch(words[i], module, &name, &constraint)) ask(name, line, constraint);
    }
  }
  void linked(const Words& words, int line) {
    for (const auto& word : words) {
      if (word.empty() || is_key(word)) continue;
      const auto scope = word.find("::");
      ask(word.starts_with("-l") ? word.substr(2) : scope == word.npos ? word : word.substr(scope + 2), line);
      if (scope != word.npos) ask(word.substr(0, scope), line);
    }
  }
  void install(const Words& words, int) {
    static const RE2 file(R"((.+?)-?[Cc]onfig\.cmake)");
    for (std::size_t i = 0; i + 1 < words.size(); ++i) {
      std::string stem;
      if (words[i] == "EXPORT") names_.given.push_back(words[i + 1]);
      if (words[i] == "FILE" && RE2::FullMatch(words[i + 1], file, &stem)) names_.given.push_back(stem);
    }
  }

  Names& names_;
  std::map<std::string, std::string> values_;
};

}  // namespace

void names_in(const std::string& path, Names& names) {
  const auto content = files::read(path);
  if (!content) return;
  try {
    Look(names).body(parse(*content, path)->body);
  } catch (const Fault&) {
  }
}

}  // namespace coctilis::describe::listfile
