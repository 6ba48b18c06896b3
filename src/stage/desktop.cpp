#include "stage/desktop.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::stage {

namespace {

// A value of the type string ("Possible value types"): one line.
std::string value(const std::string& text) { return text::replace_all(text, "\\", "\\\\"); }

// A word of Exec ("The Exec key"): in double quotes where it has a reserved character, and with % doubled.
std::string exec_word(const std::string& word) {
  constexpr std::string_view reserved = " \t\n\"'\\><~|&;$*?#()`";
  const std::string doubled = text::replace_all(word, "%", "%%");
  if (!word.empty() && word.find_first_of(reserved) == std::string::npos) return doubled;
  std::string out = "\"";
  for (const char c : doubled) {
    if (c == '"' || c == '`' || c == '$' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

[[noreturn]] void refuse(const Place& place, const std::string& what, const std::string& remedy) {
  throw Fault({Exit::usage, place, what, {}, remedy, {}});
}

class Entries {
 public:
  Entries(const std::string& tree, model::Staged& staged) : tree_(tree), staged_(staged) {}

  void add(const model::DesktopEntry& entry) {
    const std::string program = program_of(entry);
    std::string icon;
    if (!entry.icon.empty()) {
      const auto image = files::read(tree_ + "/" + entry.icon);
      if (!image)
        refuse(entry.place, "the icon '" + entry.icon + "' is not there", "name a PNG or SVG file of the tree");
      const std::string ending = std::filesystem::path(entry.icon).extension().string();
      icon = put("share/icons/" + entry.program + ending, *image, entry.place);
    }
    std::string folder;
    if (!entry.folder.empty()) {
      folder = files::absolute(entry.folder, staged_.prefix);
      if (!files::is_folder(folder))
        refuse(entry.place, "its working folder " + folder + " was not installed",
               "name a folder that is, from the prefix");
    }
    put("share/applications/" + entry.program + ".desktop",
        desktop_entry_text(entry, staged_.prefix, program, icon, folder), entry.place);
  }

 private:
  [[nodiscard]] std::string program_of(const model::DesktopEntry& entry) const {
    std::vector<std::string> programs;
    std::string found;
    for (const auto& file : staged_.files) {
      const std::string path = staged_.prefix + "/" + file;
      if (!files::is_program(path) || file.starts_with("libexec/")) continue;
      const std::string name = std::filesystem::path(file).filename().string();
      if (name == entry.program && found.empty()) found = path;
      if (file.starts_with("bin/")) programs.push_back(name);
    }
    if (found.empty())
      refuse(entry.place, "no program '" + text::printable_line(entry.program) + "' was installed",
             programs.empty() ? "the description installs none" : "there are " + text::join(programs, ", "));
    return found;
  }

  std::string put(const std::string& name, const std::string& content, const Place& place) {
    std::string path = staged_.prefix + "/" + name;
    if (!files::lies_below(path, staged_.prefix) || files::is_link(path))
      refuse(place, "'" + path + "' leads out of the prefix", "take the link away");
    const bool wrote = files::write_if_different(path, content);
    if (std::find(staged_.files.begin(), staged_.files.end(), name) == staged_.files.end())
      staged_.files.push_back(name);
    if (wrote) ++staged_.written;
    return path;
  }

  const std::string& tree_;
  model::Staged& staged_;
};

}  // namespace

std::string desktop_entry_text(const model::DesktopEntry& entry, const std::string& prefix, const std::string& program,
                               const std::string& icon, const std::string& folder) {
  std::vector<std::string> words = {exec_word(program)};
  for (const auto& word : entry.arguments) words.push_back(exec_word(text::replace_all(word, "${prefix}", prefix)));
  std::string out = "[Desktop Entry]\nType=Application\nVersion=1.4\nName=" + value(entry.title) + "\n";
  if (!entry.comment.empty()) out += "Comment=" + value(entry.comment) + "\n";
  out += "Exec=" + value(text::join(words, " ")) + "\n";
  if (!icon.empty()) out += "Icon=" + value(icon) + "\n";
  if (!folder.empty()) out += "Path=" + value(folder) + "\n";
  out += std::string("Terminal=") + (entry.terminal ? "true" : "false") + "\n";
  if (!entry.categories.empty()) out += "Categories=" + text::join(entry.categories, ";") + ";\n";
  return out;
}

Result<bool> add_desktop_entries(const std::vector<model::DesktopEntry>& entries, const std::string& tree,
                                 model::Staged& staged) {
  return guarded("installing", [&] {
    Entries all(tree, staged);
    for (const auto& entry : entries) all.add(entry);
    return true;
  });
}

}  // namespace coctilis::stage
