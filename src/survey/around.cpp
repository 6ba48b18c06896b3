#include "survey/around.h"

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "survey/languages.h"
#include "survey/survey.h"

namespace coctilis::survey {

namespace {

// The texts of the descriptions of a folder that can be read.
std::vector<std::string> descriptions_in(const std::string& folder, const DescriptionFormats& formats) {
  std::vector<std::string> out;
  for (const auto& name : files::names_in(folder)) {
    const DescriptionFormat* format = nullptr;
    if (description_name(formats, name, &format) == nullptr || !format->readable || format->is_hint) continue;
    const std::string path = folder + "/" + name;
    if (!files::is_file(path) || (format->counts != nullptr && !format->counts(path))) continue;
    out.push_back(files::read(path).value_or(""));
  }
  return out;
}

bool names_word(const std::string& text, const std::string& word) {
  const auto is_word = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '-'; };
  for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
    const bool begins = at == 0 || !is_word(text[at - 1]);
    const bool ends = at + word.size() >= text.size() || !is_word(text[at + word.size()]);
    if (begins && ends) return true;
  }
  return false;
}

}  // namespace

std::string tree_around(const std::string& folder, const DescriptionFormats& formats) {
  const char* home = std::getenv("HOME");
  std::string found = folder;
  if (files::is_file(folder + "/coctilis.toml")) return folder;
  std::string below = folder;
  while (!files::exists(below + "/.git")) {
    const std::string above = std::filesystem::path(below).parent_path().string();
    if (above == below || above == "/" || (home != nullptr && above == home)) break;
    const std::string name = std::filesystem::path(below).filename().string();
    const auto texts = descriptions_in(above, formats);
    const bool holds =
        files::is_file(above + "/coctilis.toml") || is_kiln(above + "/kiln") || is_kiln(above + "/.kiln") ||
        (files::exists(above + "/.git") && !texts.empty()) ||
        std::any_of(texts.begin(), texts.end(), [&](const auto& text) { return names_word(text, name); });
    if (holds) found = above;
    below = above;
  }
  return found;
}

bool looks_like_a_tree(const std::string& folder, const DescriptionFormats& formats) {
  if (files::is_file(folder + "/coctilis.toml") || is_kiln(folder + "/kiln") || is_kiln(folder + "/.kiln") ||
      !descriptions_in(folder, formats).empty())
    return true;
  const auto has_source = [](const std::string& where) {
    const auto names = files::names_in(where);
    return std::any_of(names.begin(), names.end(), [](const auto& name) { return !compiled_language(name).empty(); });
  };
  // Sources often lie one folder down.
  const auto names = files::names_in(folder);
  return has_source(folder) || std::any_of(names.begin(), names.end(), [&](const auto& name) {
           return !name.starts_with('.') && files::is_folder(folder + "/" + name) && has_source(folder + "/" + name);
         });
}

}  // namespace coctilis::survey
