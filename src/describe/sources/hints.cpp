#include "describe/sources/hints.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>

#include "base/files.h"
#include "base/text.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

using survey::FolderRole;

namespace {

// How well a library's name goes with another of the tree's: "bz2" with "bzip2", "z" with "zlib", "lua" with "lua5.4"
// begin alike. 0: not at all.
std::size_t affinity(const std::string& library, const std::string& other) {
  const std::string a = text::lower(library);
  std::string b = text::lower(other);
  if (b.starts_with("lib") && b.size() > 3) b = b.substr(3);
  if (a.empty() || b.empty()) return 0;
  if (a == b) return 6;
  std::size_t same = 0;
  while (same < a.size() && same < b.size() && a[same] == b[same]) ++same;
  if (same == a.size() && b.substr(same) == "lib") return 5;
  if (a.size() < 2 || same < 2) return 0;
  if (same == std::min(a.size(), b.size())) return 3;
  return same * 2 >= std::min(a.size(), b.size()) || same >= 3 ? 2 : 0;
}

bool is_text(const std::string& name) {
  const std::string lower = text::lower(name);
  for (const char* ending : {".md", ".txt", ".texi", ".html", ".rst", ".h", ".hpp", ".3", ".1", ".pod", ".xml"}) {
    if (lower.ends_with(ending)) return true;
  }
  return lower.starts_with("readme") || lower.starts_with("install") || lower == "news" || lower == "changelog" ||
         lower == "about";
}

std::vector<LibraryHint> by_pc_files(const Tree& tree) {
  std::vector<LibraryHint> out;
  for (const auto& file : tree.files()) {
    const bool pc = file.path.ends_with(".pc.in") || file.path.ends_with(".pc") || file.path.ends_with(".pc.cmakein") ||
                    file.path.ends_with(".pc.cmake");
    if (!pc || file.role != FolderRole::own) continue;
    const std::string text = files::read(tree.absolute(file.path)).value_or("");
    static const RE2 libs(R"((?m)^Libs:[^\n]*?-l([A-Za-z0-9_+.-]+))");
    std::string name;
    if (!RE2::PartialMatch(text, libs, &name)) continue;
    if (std::none_of(out.begin(), out.end(), [&](const auto& hint) { return hint.name == name; }))
      out.push_back({name, {}, file.path + " says -l" + name});
  }
  return out;
}

}  // namespace

std::vector<LibraryHint> library_hints(const Tree& tree, const std::string& tree_name) {
  auto out = by_pc_files(tree);
  if (!out.empty()) return out;
  // What a library's name may go with: that of the tree, and those of its headers that lie where users look.
  std::vector<std::pair<std::string, bool>> names = {{tree_name, true}};
  for (const auto& file : tree.files()) {
    if (file.role != FolderRole::own || !survey::is_header(file.path) ||
        folder_of(file.path).find('/') != std::string::npos)
      continue;
    const std::string name = file.path.substr(file.path.rfind('/') + 1);
    names.emplace_back(name.substr(0, name.find('.')), false);
  }
  static const RE2 file_name(R"(\blib([A-Za-z][A-Za-z0-9_+-]*(?:\.[0-9]+)?)\.(?:so|a)\b)");
  static const RE2 option(R"((?:^|[\s`"'])-l([A-Za-z][A-Za-z0-9_+.-]*))");
  static const RE2 word(R"(\blib([a-z][a-z0-9]*)\b)");
  // Names of files and options say more than words, and the tree's own name more than that of a header.
  struct Mention {
    std::size_t of_tree = 0;
    std::size_t as_file = 0;
    std::size_t as_word = 0;
    std::string where;
    [[nodiscard]] auto rank() const { return std::make_tuple(as_file > 0 && of_tree > 0, as_file, as_word * of_tree); }
  };
  std::map<std::string, Mention> mentions;
  for (const auto& file : tree.files()) {
    const std::string name = file.path.substr(file.path.rfind('/') + 1);
    if (!is_text(name) || (file.role != FolderRole::own && file.role != FolderRole::documents)) continue;
    const std::string text = files::read(tree.absolute(file.path)).value_or("");
    for (const auto* pattern : {&file_name, &option, &word}) {
      re2::StringPiece rest(text);
      std::string found;
      while (RE2::FindAndConsume(&rest, *pattern, &found)) {
        while (found.ends_with('.') || found.ends_with('-')) found.pop_back();
        std::size_t fits = 0;
        for (const auto& [other, is_tree] : names) {
          // Headers count as far as they are called like the library.
          const auto how = affinity(found, other);
          if (is_tree || how >= 5) fits = std::max(fits, how);
        }
        if (fits == 0) continue;
        auto& mention = mentions[found];
        mention.of_tree = affinity(found, tree_name);
        ++(pattern == &word ? mention.as_word : mention.as_file);
        if (mention.where.empty()) mention.where = file.path;
      }
    }
  }
  const auto best = std::max_element(mentions.begin(), mentions.end(),
                                     [](const auto& a, const auto& b) { return a.second.rank() < b.second.rank(); });
  if (best != mentions.end() && (best->second.as_file > 0 || best->second.as_word * best->second.of_tree >= 6))
    out.push_back({best->first, {}, best->second.where + " speaks of lib" + best->first});
  return out;
}

std::vector<std::string> public_headers(const Tree& tree, const std::vector<std::string>& sources) {
  std::vector<std::string> in_include;
  std::vector<std::string> beside;
  std::set<std::string> folders;
  for (const auto& source : sources) folders.insert(folder_of(source));
  for (const auto& file : tree.files()) {
    if (!survey::is_header(file.path) || file.role != FolderRole::own || file.path.ends_with(".inc")) continue;
    const std::string lower = text::lower(file.path);
    if (("/" + lower).find("/include/") != std::string::npos || ("/" + lower).find("/inc/") != std::string::npos) {
      in_include.push_back(file.path);
      continue;
    }
    const bool inner = lower.find("private") != std::string::npos || lower.find("internal") != std::string::npos ||
                       lower.find("impl") != std::string::npos || lower.ends_with("config.h") ||
                       lower.ends_with("_p.h") || lower.ends_with("_int.h");
    if (!inner && folders.contains(folder_of(file.path))) beside.push_back(file.path);
  }
  return in_include.empty() ? beside : in_include;
}

}  // namespace coctilis::describe::sources
