#include "describe/listfile/tool.h"

#include <filesystem>

#include "base/files.h"

namespace coctilis::describe::listfile {

void name_tool(std::vector<std::string>& words, std::size_t at) {
  if (at >= words.size()) return;
  const std::string name = std::filesystem::path(words[at]).filename().string();
  if (name == "cmake" || name == "cmake3") words[at] = tool_word;
}

Surroundings take_surroundings(std::vector<std::string>& words, const std::string& folder) {
  Surroundings out;
  out.folder = folder;
  for (;;) {
    if (!words.empty()) name_tool(words);
    if (words.size() < 4 || words[0] != tool_word || words[1] != "-E" || (words[2] != "env" && words[2] != "chdir"))
      return out;
    std::size_t at = 3;
    if (words[2] == "chdir") {
      out.folder = files::absolute(words[at++], out.folder);
    } else {
      for (; at < words.size(); ++at) {
        const auto equals = words[at].find('=');
        if (words[at].starts_with("--unset="))
          out.environment[words[at].substr(8)] = std::nullopt;
        else if (equals != std::string::npos && equals > 0 && !words[at].starts_with("--"))
          out.environment[words[at].substr(0, equals)] = words[at].substr(equals + 1);
        else
          break;
      }
      if (at < words.size() && words[at] == "--") ++at;
    }
    words.erase(words.begin(), words.begin() + static_cast<std::ptrdiff_t>(at));
  }
}

}  // namespace coctilis::describe::listfile
