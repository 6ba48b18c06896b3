#include "describe/sources/lists.h"

#include <re2/re2.h>

#include <algorithm>
#include <optional>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::sources {

namespace {

using Variables = std::map<std::string, std::string>;

constexpr std::size_t most_words = 100'000;

struct Assignment {
  std::string value;
  int line = 0;
};

// The assignments of a list; lines that go on are one.
std::map<std::string, Assignment> assignments(const std::string& content) {
  static const RE2 assignment(R"(^([A-Za-z_][A-Za-z0-9_]*)[ \t]*(\+=|:=|=)[ \t]*(.*)$)");
  std::map<std::string, Assignment> out;
  std::string whole;
  int line = 0;
  int first = 1;
  for (const auto& part : text::split(content, '\n')) {
    ++line;
    std::string piece = part;
    while (!piece.empty() && (piece.back() == '\r' || piece.back() == ' ' || piece.back() == '\t')) piece.pop_back();
    const bool goes_on = piece.ends_with('\\');
    if (goes_on) piece.pop_back();
    if (whole.empty()) first = line;
    whole += (whole.empty() ? "" : " ") + piece;
    if (goes_on) continue;
    std::string name;
    std::string how;
    std::string value;
    // What belongs to a rule says nothing of sources.
    if (!whole.starts_with('\t') && RE2::FullMatch(whole, assignment, &name, &how, &value)) {
      value = value.substr(0, value.find(" #"));
      auto& known = out[name];
      if (how != "+=" || known.line == 0) known.line = first;
      // Of alternatives, and what is added, all count.
      known.value += (known.value.empty() ? "" : " ") + value;
    }
    whole.clear();
  }
  return out;
}

// Where a tree that is configured without a word installs (GNU Coding Standards, "Variables for Installation
// Directories").
const Variables& usual_folders() {
  static const Variables all = {{"prefix", "/usr/local"},
                                {"exec_prefix", "$(prefix)"},
                                {"bindir", "$(exec_prefix)/bin"},
                                {"sbindir", "$(exec_prefix)/sbin"},
                                {"libexecdir", "$(exec_prefix)/libexec"},
                                {"libdir", "$(exec_prefix)/lib"},
                                {"includedir", "$(prefix)/include"},
                                {"datarootdir", "$(prefix)/share"},
                                {"datadir", "$(datarootdir)"},
                                {"sysconfdir", "$(prefix)/etc"},
                                {"sharedstatedir", "$(prefix)/com"},
                                {"localstatedir", "$(prefix)/var"},
                                {"runstatedir", "$(localstatedir)/run"},
                                {"mandir", "$(datarootdir)/man"},
                                {"infodir", "$(datarootdir)/info"},
                                {"docdir", "$(datarootdir)/doc/$(PACKAGE)"},
                                {"localedir", "$(datarootdir)/locale"},
                                {"pkgdatadir", "$(datadir)/$(PACKAGE)"},
                                {"pkglibdir", "$(libdir)/$(PACKAGE)"},
                                {"pkglibexecdir", "$(libexecdir)/$(PACKAGE)"},
                                {"pkgincludedir", "$(includedir)/$(PACKAGE)"}};
  return all;
}

// A text with its variables put in; nothing when it has one that is not known, or too many.
std::optional<std::string> expanded(const std::string& text, const std::vector<const Variables*>& known, int depth,
                                    int& left) {
  constexpr int deepest = 16;
  constexpr std::size_t longest = 1U << 16U;
  if (depth > deepest || --left < 0) return std::nullopt;
  static const RE2 variable(
      R"(\$\(([A-Za-z_][A-Za-z0-9_]*)\)|\$\{([A-Za-z_][A-Za-z0-9_]*)\}|@([A-Za-z_][A-Za-z0-9_]*)@)");
  std::string out;
  re2::StringPiece rest(text);
  re2::StringPiece found[4];
  while (variable.Match(rest, 0, rest.size(), RE2::UNANCHORED, found, 4)) {
    out.append(rest.data(), static_cast<std::size_t>(found[0].data() - rest.data()));
    std::string name;
    for (int i = 1; i < 4; ++i) {
      if (!found[i].empty()) name = std::string(found[i]);
    }
    const Variables* has = nullptr;
    for (const auto* one : known) {
      if (has == nullptr && one->contains(name)) has = one;
    }
    if (has == nullptr) return std::nullopt;
    const auto value = expanded(has->at(name), known, depth + 1, left);
    if (!value) return std::nullopt;
    out += *value;
    if (out.size() > longest) return std::nullopt;
    rest.remove_prefix(static_cast<std::size_t>(found[0].data() - rest.data()) + found[0].size());
  }
  out.append(rest.data(), rest.size());
  if (out.find('$') != std::string::npos) return std::nullopt;
  return out;
}

std::string configuring(const Tree& tree) {
  std::string content;
  for (const char* name : {"configure.ac", "configure.in"}) {
    if (content.empty()) content = files::read(tree.root() + "/" + name).value_or("");
  }
  return content;
}

std::optional<std::string> expanded(const std::string& text, const std::vector<const Variables*>& known) {
  int left = 1000;
  return expanded(text, known, 0, left);
}

// What the file that the tree is configured by says of names and values, as far as it needs nobody to run it.
Variables configured(const std::string& content, const std::string& tree_name) {
  Variables out = {{"PACKAGE", tree_name}, {"PACKAGE_NAME", tree_name}, {"PACKAGE_TARNAME", tree_name}};
  static const RE2 begin(R"(AC_INIT\(\s*\[?([^\],)]*)\]?\s*,\s*\[?([^\],)]*)\]?)");
  static const RE2 older(R"(AM_INIT_AUTOMAKE\(\s*\[?([A-Za-z][^\],) ]*)\]?\s*,\s*\[?([0-9][^\],)]*)\]?)");
  std::string name;
  std::string version;
  if (RE2::PartialMatch(content, older, &name, &version) || RE2::PartialMatch(content, begin, &name, &version)) {
    name = text::trim(name);
    // A name that a macro makes is nobody's.
    static const RE2 plain(R"([A-Za-z0-9][A-Za-z0-9_.+ -]*)");
    if (RE2::FullMatch(name, plain)) {
      out["PACKAGE_NAME"] = name;
      out["PACKAGE"] = out["PACKAGE_TARNAME"] = text::replace_all(text::lower(name), " ", "-");
    }
    if (RE2::FullMatch(version, plain)) out["VERSION"] = out["PACKAGE_VERSION"] = text::trim(version);
  }
  // Values that stand there: the first whose own variables are known counts.
  static const RE2 assignment(
      R"re((?:^|[\s\[(,])([A-Za-z_][A-Za-z0-9_]*)=(?:"([^"\n]*)"|'([^'\n]*)'|([A-Za-z0-9_./${}-]+)))re");
  re2::StringPiece rest(content);
  std::string quoted;
  std::string single;
  std::string bare;
  while (RE2::FindAndConsume(&rest, assignment, &name, &quoted, &single, &bare)) {
    if (out.contains(name) || usual_folders().contains(name)) continue;
    const std::string value = !quoted.empty() ? quoted : !single.empty() ? single : bare;
    if (value.empty() || value.find('`') != std::string::npos) continue;
    if (expanded(value, {&out, &usual_folders()})) out[name] = value;
  }
  return out;
}

// What it defines for sources. That a name is there or not is for the system to say, and is found out elsewhere.
Variables defined(const std::string& content, const Variables& known) {
  static const RE2 definition(
      R"re(AC_DEFINE(?:_UNQUOTED)?\(\s*\[?([A-Za-z_][A-Za-z0-9_]*)\]?\s*,\s*(?:\[([^\]\n]*)\]|("[^"\n]*")|([A-Za-z0-9_.$+-]+))\s*[,)])re");
  static const RE2 shell_variable(R"(\$([A-Za-z_][A-Za-z0-9_]*))");
  Variables out;
  re2::StringPiece rest(content);
  std::string name;
  std::string in_brackets;
  std::string quoted;
  std::string bare;
  while (RE2::FindAndConsume(&rest, definition, &name, &in_brackets, &quoted, &bare)) {
    std::string value(text::trim(!in_brackets.empty() ? in_brackets : !quoted.empty() ? quoted : bare));
    if (value.empty() || value == "1" || value == "0" || value.find('`') != std::string::npos) continue;
    RE2::GlobalReplace(&value, shell_variable, R"($(\1))");
    if (const auto is = expanded(value, {&known, &usual_folders()})) out.emplace(name, *is);
  }
  return out;
}

class ListReader {
 public:
  ListReader(const Tree& tree, const std::string& tree_name)
      : tree_(tree), content_(configuring(tree)), configured_(configured(content_, tree_name)) {
    out_.values = defined(content_, configured_);
    for (const auto& file : tree.files()) {
      if (file.path == "Makefile.am" || file.path.ends_with("/Makefile.am")) {
        if (file.role == survey::FolderRole::own || file.role == survey::FolderRole::tests) read(file.path);
      }
    }
    // What tests have of their own comes behind what is made for users.
    std::stable_partition(out_.results.begin(), out_.results.end(), [](const auto& one) { return !one.test; });
    for (const auto& [source, flags] : of_tests_) take(source, flags);
  }

  SourceLists out() && { return std::move(out_); }

 private:
  struct Flags {
    std::vector<std::string> definitions;
    std::vector<std::string> folders;
  };

  // One list.
  struct List {
    std::string path;
    std::string folder;  // relative
    std::map<std::string, Assignment> all;
    Variables own;
    Variables places;
    std::vector<const Variables*> known;

    // The words of a variable; each for itself: one that has an unknown variable does not spoil the others.
    [[nodiscard]] std::vector<std::string> words(const std::string& name) const {
      std::size_t left = most_words;
      return words(name, 0, left);
    }
    [[nodiscard]] std::vector<std::string> words(const std::string& name, int depth, std::size_t& left) const {
      constexpr int deepest = 8;
      static const RE2 list_of_its_own(R"(\$[({]([A-Za-z_][A-Za-z0-9_]*)[)}])");
      std::vector<std::string> out;
      const auto it = own.find(name);
      if (it == own.end() || depth > deepest) return out;
      for (const auto& word : text::words(it->second)) {
        if (left == 0) break;
        --left;
        std::string other;
        if (RE2::FullMatch(word, list_of_its_own, &other) && own.contains(other)) {
          for (auto& one : words(other, depth + 1, left)) out.push_back(std::move(one));
        } else if (const auto value = expanded(word, known)) {
          for (auto& part : text::words(*value)) out.push_back(std::move(part));
        }
      }
      return out;
    }
  };

  void read(const std::string& path) {
    const auto content = files::read(tree_.absolute(path));
    if (!content) return;
    List list;
    list.path = path;
    list.folder = folder_of(path);
    list.all = assignments(*content);
    for (const auto& [name, one] : list.all) list.own[name] = one.value;
    const std::string here = tree_.root() + (list.folder.empty() ? "" : "/" + list.folder);
    for (const char* name : {"srcdir", "builddir", "abs_srcdir", "abs_builddir"}) list.places[name] = here;
    for (const char* name : {"top_srcdir", "top_builddir", "abs_top_srcdir", "abs_top_builddir"})
      list.places[name] = tree_.root();
    list.known = {&list.places, &list.own, &configured_, &usual_folders()};
    static const RE2 primary(R"(^(?:dist_|nodist_|nobase_)*([A-Za-z0-9]+)_(PROGRAMS|LTLIBRARIES|LIBRARIES)$)");
    std::vector<std::pair<int, std::string>> in_order;
    for (const auto& [name, one] : list.all) in_order.emplace_back(one.line, name);
    std::sort(in_order.begin(), in_order.end());
    for (const auto& [line, name] : in_order) {
      std::string where;
      std::string kind;
      if (!RE2::FullMatch(name, primary, &where, &kind)) continue;
      for (const auto& called : list.words(name)) add(list, called, where, kind != "PROGRAMS", line);
    }
  }

  void add(const List& list, const std::string& called, const std::string& where, bool library, int line) {
    ListedResult result;
    result.library = library;
    result.test = where == "check";
    result.installed = where != "noinst" && where != "EXTRA" && where != "check";
    result.place = {list.path, line, 0};
    result.name = called.substr(called.rfind('/') + 1);
    const std::string bare = library ? called.substr(0, called.rfind('.')) : called;
    if (library) {
      result.name = result.name.substr(0, result.name.rfind('.'));
      if (result.name.starts_with("lib")) result.name = result.name.substr(3);
    }
    std::string stem = called;
    std::replace_if(
        stem.begin(), stem.end(), [](char c) { return std::isalnum(static_cast<unsigned char>(c)) == 0 && c != '@'; },
        '_');
    auto sources = list.words(stem + "_SOURCES");
    for (const auto& more : list.words("nodist_" + stem + "_SOURCES")) sources.push_back(more);
    // With nothing said it is the source of its name.
    if (!list.own.contains(stem + "_SOURCES") && !list.own.contains("nodist_" + stem + "_SOURCES"))
      sources.push_back(bare + ".c");
    Flags flags;
    if (list.own.contains(stem + "_CPPFLAGS")) {
      add_flags(list, stem + "_CPPFLAGS", flags);
    } else {
      for (const char* name : {"AM_CPPFLAGS", "INCLUDES"}) add_flags(list, name, flags);
    }
    for (const char* language : {"CFLAGS", "CXXFLAGS"}) {
      const std::string own = stem + "_" + language;
      add_flags(list, list.own.contains(own) ? own : std::string("AM_") + language, flags);
    }
    for (const auto& source : sources) {
      if (source.starts_with('/') && !files::is_below(source, tree_.root())) continue;
      const std::string path = files::is_below(source, tree_.root()) ? files::below(source, tree_.root())
                               : list.folder.empty()                 ? source
                                                                     : list.folder + "/" + source;
      const std::string plain = std::filesystem::path(path).lexically_normal().string();
      if (plain.starts_with("..")) continue;
      result.sources.push_back(plain);
      if (result.test)
        of_tests_.emplace(plain, flags);
      else
        take(plain, flags);
    }
    out_.results.push_back(std::move(result));
  }

  void take(const std::string& source, const Flags& flags) {
    if (!out_.definitions.emplace(source, flags.definitions).second) return;
    out_.folders.emplace(source, flags.folders);
  }

  void add_flags(const List& from, const std::string& name, Flags& flags) const {
    const auto it = from.own.find(name);
    if (it == from.own.end()) return;
    for (const auto& word : words_with_quotes(it->second)) {
      if (!word.starts_with("-D") && !word.starts_with("-I")) continue;
      const auto value = expanded(word, from.known);
      if (!value) continue;
      const auto plain = text::shell_words(*value);
      if (plain.size() != 1 || plain.front().size() < 3) continue;
      std::string one = plain.front().substr(2);
      auto& list = plain.front().starts_with("-D") ? flags.definitions : flags.folders;
      if (&list == &flags.folders) {
        one = files::absolute(one, tree_.root() + (from.folder.empty() ? "" : "/" + from.folder));
        if (!files::is_below(one, tree_.root()) || !files::is_folder(one)) continue;
      }
      if (std::find(list.begin(), list.end(), one) == list.end()) list.push_back(one);
    }
  }

  // Words as a shell would see them, with their quotes: a variable may stand within.
  static std::vector<std::string> words_with_quotes(const std::string& text) {
    std::vector<std::string> out;
    std::string word;
    char quote = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
      const char c = text[i];
      if (quote == 0 && (c == ' ' || c == '\t')) {
        if (!word.empty()) out.push_back(std::move(word));
        word.clear();
        continue;
      }
      word += c;
      if (c == '\\' && quote != '\'' && i + 1 < text.size())
        word += text[++i];
      else if (quote == 0 && (c == '\'' || c == '"'))
        quote = c;
      else if (c == quote)
        quote = 0;
    }
    if (!word.empty()) out.push_back(std::move(word));
    return out;
  }

  const Tree& tree_;
  const std::string content_;
  const Variables configured_;
  SourceLists out_;
  std::map<std::string, Flags> of_tests_;
};

}  // namespace

SourceLists source_lists(const Tree& tree, const std::string& tree_name) { return ListReader(tree, tree_name).out(); }

}  // namespace coctilis::describe::sources
