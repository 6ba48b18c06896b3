#include "survey/language_settings.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {

using model::ToldLanguage;

const std::vector<std::string>& single_places() {
  static const std::vector<std::string> names = {"source", "output",   "folder",       "stem", "name",
                                                 "main",   "compiler", "options-file", "tree"};
  return names;
}

const std::vector<std::string>& listed_places() {
  static const std::vector<std::string> names = {"include",       "options", "sources", "objects",
                                                 "object-folder", "uses",    "library", "library-folder"};
  return names;
}

namespace {

class LanguageReader : TomlReader {
 public:
  using TomlReader::TomlReader;

  void read(const std::string& name, const toml::node& node, model::Settings& settings) const {
    const auto& t = table(node, "language." + name);
    ToldLanguage out;
    out.name = name;
    out.place = place(node);
    if (!RE2::FullMatch(name, "[A-Za-z][A-Za-z0-9_+#-]*"))
      wrong(node, "a language cannot be called '" + text::printable_line(name) + "'",
            "use letters, digits, '-', '_', '+' and '#'");
    const auto list = [&](const char* key, std::vector<std::string> ToldLanguage::*member) {
      return std::pair<std::string, Handler>(
          key, [this, &out, key, member](const toml::node& n) { out.*member = string_or_strings(n, key); });
    };
    const auto endings = [&](const char* key, std::vector<std::string> ToldLanguage::*member) {
      return std::pair<std::string, Handler>(key, [this, &out, key, member](const toml::node& n) {
        out.*member = string_or_strings(n, key);
        for (const auto& ending : out.*member) {
          if (!RE2::FullMatch(ending, R"(\.[A-Za-z0-9_+.-]+)"))
            wrong(n, "'" + text::printable_line(ending) + "' is no ending of file names", "write one like \".pas\"");
        }
      });
    };
    const auto words = [&](const char* key, std::vector<std::string> ToldLanguage::*member) {
      return std::pair<std::string, Handler>(key, [this, &out, key, member](const toml::node& n) {
        out.*member = string_or_strings(n, key);
        for (const auto& word : out.*member) check_places(n, word);
      });
    };
    section(t, "language." + name,
            {endings("endings", &ToldLanguage::endings),
             endings("included", &ToldLanguage::included),
             endings("also", &ToldLanguage::also),
             list("compiler", &ToldLanguage::compiler),
             {"version", [&](auto& n) { out.version = string(n, "version"); }},
             {"package", [&](auto& n) { out.package = string(n, "package"); }},
             words("command", &ToldLanguage::command),
             {"start",
              [&](auto& n) {
                out.start = string_or_strings(n, "start");
                for (const auto& word : out.start) check_places(n, word);
                if (!out.start.empty()) refuse_list(n, out.start.front());
              }},
             {"link", [&](auto& n) { out.link = commands(n); }},
             {"makes", [&](auto& n) { out.makes = makes(n); }},
             {"include", [&](auto& n) { out.include = folders(n, "include"); }},
             list("options", &ToldLanguage::options),
             list("debug", &ToldLanguage::debug),
             list("release", &ToldLanguage::release),
             list("version-words", &ToldLanguage::version_words),
             {"options-file", [&](auto& n) { out.options_file = string(n, "options-file"); }},
             list("libraries", &ToldLanguage::libraries),
             {"library-folders", [&](auto& n) { out.library_folders = folders(n, "library-folders"); }},
             {"reads",
              [&](auto& n) {
                out.reads = string(n, "reads");
                if (out.reads == "watched") out.reads.clear();
                check_places(n, out.reads);
                refuse_list(n, out.reads);
              }},
             {"entry", [&](auto& n) { out.entry = pattern(n, "entry"); }}});
    if (out.endings.empty()) wrong(t, "a language needs the endings of its sources", "write endings = [\".pas\"]");
    if (out.compiler.empty()) wrong(t, "a language needs its compiler", "write compiler = \"...\": a program by name");
    if (out.command.empty())
      wrong(t, "a language needs the command that compiles",
            "write command = [...]: words behind the compiler, with ${source} and ${output}");
    if (out.makes != ToldLanguage::Makes::object && !out.link.empty())
      wrong(t, "only objects are linked", "leave link out, or makes = \"program\"");
    if (out.makes == ToldLanguage::Makes::folder && out.start.empty())
      wrong(t, "what starts a program of a folder is not said", "write start = [\"RUNTIME\", \"${output}/${stem}\"]");
    if (out.makes == ToldLanguage::Makes::object && !out.start.empty())
      wrong(t, "a program of objects starts by itself", "leave start out");
    for (const auto& other : settings.languages) {
      if (other.name == name) continue;
      for (const auto& ending : out.endings) {
        if (std::find(other.endings.begin(), other.endings.end(), ending) != other.endings.end())
          wrong(t, "sources that end with " + ending + " are of " + other.name + " already", "give it other endings");
      }
    }
    std::erase_if(settings.languages, [&](const auto& other) { return other.name == name; });
    settings.languages.push_back(std::move(out));
  }

 private:
  void check_places(const toml::node& n, const std::string& word) const {
    static const RE2 a_place(R"(\$\{([^}]*)\})");
    re2::StringPiece rest(word);
    std::string name;
    int lists = 0;
    while (RE2::FindAndConsume(&rest, a_place, &name)) {
      const auto has = [&](const auto& names) { return std::find(names.begin(), names.end(), name) != names.end(); };
      if (has(listed_places())) ++lists;
      if (!has(listed_places()) && !has(single_places()))
        wrong(n, "a command has no place ${" + text::printable_line(name) + "}",
              "there are " + text::join(single_places(), ", ") + ", " + text::join(listed_places(), ", "));
    }
    if (lists > 1)
      wrong(n, "the word '" + text::printable_line(word) + "' has several places that stand for several words",
            "make several words of it");
  }

  // A program and a file are one: what may come to no word at all, or to several, is none.
  void refuse_list(const toml::node& n, const std::string& word) const {
    for (const auto& name : listed_places()) {
      if (word.find("${" + name + "}") != std::string::npos)
        wrong(n, "'" + text::printable_line(word) + "' stands for several words, and one is wanted there",
              "write one with " + text::join(single_places(), ", "));
    }
  }

  [[nodiscard]] std::vector<std::vector<std::string>> commands(const toml::node& n) const {
    std::vector<std::vector<std::string>> out;
    const auto* all = n.as_array();
    if (all == nullptr) wrong(n, "'link' is a list of commands", "write link = [[\"PROGRAM\", \"${main}\"]]");
    for (const auto& one : *all) {
      out.push_back(strings(one, "link"));
      if (out.back().empty()) wrong(one, "a command of 'link' has no words", "take it out");
      for (const auto& word : out.back()) check_places(one, word);
      refuse_list(one, out.back().front());
    }
    return out;
  }

  [[nodiscard]] ToldLanguage::Makes makes(const toml::node& n) const {
    const std::string text = string(n, "makes");
    if (text == "object") return ToldLanguage::Makes::object;
    if (text == "program") return ToldLanguage::Makes::program;
    if (text == "folder") return ToldLanguage::Makes::folder;
    wrong(n, "a compiler makes an object, a program or a folder, not '" + text::printable_line(text) + "'",
          "write makes = \"object\"");
  }

  [[nodiscard]] std::vector<std::string> folders(const toml::node& n, const std::string& key) const {
    auto out = string_or_strings(n, key);
    for (auto& one : out) one = with_environment(n, one);
    return out;
  }
};

}  // namespace

void read_language(const std::string& path, const std::string& name, const toml::node& node,
                   model::Settings& settings) {
  LanguageReader(path).read(name, node, settings);
}

}  // namespace coctilis::survey
