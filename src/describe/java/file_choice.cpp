#include "describe/java/file_choice.h"

#include <algorithm>
#include <functional>
#include <map>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::java {

bool takes(const FileChoice& choice, const std::string& below) {
  const auto fits = [&](const std::string& pattern) { return files::path_matches(pattern, below); };
  return (choice.includes.empty() || std::any_of(choice.includes.begin(), choice.includes.end(), fits)) &&
         std::none_of(choice.excludes.begin(), choice.excludes.end(), fits);
}

std::vector<std::pair<std::string, std::string>> files_of(const FileChoice& choice, const std::string& tree) {
  std::vector<std::pair<std::string, std::string>> out;
  for (const auto& path : choice.files) {
    if (files::is_file(path)) out.emplace_back(path, std::filesystem::path(path).filename().string());
  }
  if (!choice.files.empty()) return out;
  const std::function<void(const std::string&, const std::string&, int)> look =
      [&](const std::string& folder, const std::string& below, int depth) {
        for (const auto& name : files::names_in(folder)) {
          const std::string path = folder + "/" + name;
          const std::string shown = below.empty() ? name : below + "/" + name;
          if (depth > 60 || out.size() > 200'000 || name == ".git") return;
          if (files::is_folder(path)) {
            if (!files::is_link(path)) look(path, shown, depth + 1);
          } else if (files::is_file(path) && takes(choice, shown)) {
            out.emplace_back(path, shown);
          }
        }
      };
  if (files::is_below(choice.folder, tree) || choice.folder.starts_with("/usr/share/java")) look(choice.folder, {}, 0);
  return out;
}

std::vector<std::string> patterns_of(const std::string& text) {
  std::vector<std::string> out;
  for (auto word : text::words(text::replace_all(text, ",", " "))) {
    word = text::replace_all(std::move(word), "\\", "/");
    if (word.ends_with('/')) word += "**";
    out.push_back(std::move(word));
  }
  return out;
}

std::vector<std::pair<std::string, std::string>> read_properties(const std::string& text) {
  std::string whole;
  std::vector<std::string> lines;
  for (const auto& line : text::split(text, '\n')) {
    std::string plain(text::trim(line));
    if (whole.empty() && (plain.empty() || plain[0] == '#' || plain[0] == '!')) continue;
    const bool more = plain.ends_with('\\');
    if (more) plain.pop_back();
    whole += plain;
    if (!more) lines.push_back(std::exchange(whole, {}));
  }
  std::vector<std::pair<std::string, std::string>> out;
  for (const auto& line : lines) {
    const auto at = line.find_first_of("=: \t");
    if (at == std::string::npos) continue;
    const auto value = line.find_first_not_of("=: \t", at);
    out.emplace_back(line.substr(0, at),
                     value == std::string::npos ? "" : text::replace_all(line.substr(value), "\\\\", "\\"));
  }
  return out;
}

std::string shown_by(const std::string& pattern, const std::tm& day) {
  static const std::map<char, std::pair<const char*, const char*>> letters = {
      {'y', {"%y", "%Y"}}, {'M', {"%m", "%B"}}, {'d', {"%d", "%d"}}, {'H', {"%H", "%H"}},
      {'m', {"%M", "%M"}}, {'s', {"%S", "%S"}}, {'E', {"%a", "%A"}}};
  std::string out;
  for (std::size_t i = 0; i < pattern.size();) {
    std::size_t end = i;
    while (end < pattern.size() && pattern[end] == pattern[i]) ++end;
    if (const auto it = letters.find(pattern[i]); it != letters.end()) {
      const char* format = end - i > 3                         ? it->second.second
                           : pattern[i] == 'M' && end - i == 3 ? "%b"
                                                               : it->second.first;
      char text[64];
      out.append(text, std::strftime(text, sizeof text, format, &day));
    } else {
      out.append(pattern, i, end - i);
    }
    i = end;
  }
  return out;
}

}  // namespace coctilis::describe::java
