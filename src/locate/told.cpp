#include "locate/told.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::locate {

ToldFlags sorted_flags(const std::string& told) {
  ToldFlags out;
  const auto add_folder = [](std::vector<std::string>& to, const std::string& folder) {
    const std::string path = folder.starts_with('/') ? files::absolute(folder) : folder;
    if (std::find(to.begin(), to.end(), path) == to.end()) to.push_back(path);
  };
  for (const auto& word : text::shell_words(told)) {
    if (word.starts_with("-I"))
      add_folder(out.include_folders, word.substr(2));
    else if (word.starts_with("-D"))
      out.definitions.push_back(word.substr(2));
    else if (word.starts_with("-L"))
      add_folder(out.link_folders, word.substr(2));
    else if (word.starts_with("-l") || word.starts_with("-Wl,") || word == "-pthread" || word.starts_with('/'))
      out.items.push_back(word);
    else if (word.starts_with('-'))
      out.options.push_back(word);
    else
      out.good = false;
  }
  return out;
}

}  // namespace coctilis::locate
