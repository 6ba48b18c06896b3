#include "locate/prefix_environment.h"

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::locate {

std::map<std::string, std::vector<std::string>> folders_of_prefixes(const std::vector<std::string>& prefixes,
                                                                    const std::string& machine) {
  const std::vector<std::string> libraries = {"lib/" + machine, "lib64", "lib"};
  std::vector<std::string> modules;
  for (const auto& folder : libraries) modules.push_back(folder + "/pkgconfig");
  modules.emplace_back("share/pkgconfig");
  const std::pair<const char*, std::vector<std::string>> variables[] = {{"PATH", {"bin"}},
                                                                        {"CPATH", {"include"}},
                                                                        {"LIBRARY_PATH", libraries},
                                                                        {"LD_LIBRARY_PATH", libraries},
                                                                        {"LD_RUN_PATH", libraries},
                                                                        {"PKG_CONFIG_PATH", modules},
                                                                        {"ACLOCAL_PATH", {"share/aclocal"}}};
  std::map<std::string, std::vector<std::string>> out;
  for (const auto& [name, folders] : variables) {
    std::vector<std::string> list;
    for (const auto& prefix : prefixes) {
      for (const auto& folder : folders) {
        const std::string path = prefix + "/" + folder;
        // One with a colon in its name cannot be said here.
        if (path.find(':') == path.npos && files::is_folder(path) &&
            std::find(list.begin(), list.end(), path) == list.end())
          list.push_back(path);
      }
    }
    if (!list.empty()) out[name] = std::move(list);
  }
  return out;
}

std::map<std::string, std::string> environment_for_prefixes(const std::vector<std::string>& prefixes,
                                                            const std::string& machine,
                                                            const std::map<std::string, std::string>& environment) {
  std::map<std::string, std::string> out;
  for (auto [name, list] : folders_of_prefixes(prefixes, machine)) {
    const auto before = environment.find(name);
    const char* own = std::getenv(name.c_str());
    if (before != environment.end() && !before->second.empty())
      list.push_back(before->second);
    else if (own != nullptr && *own != '\0')
      list.emplace_back(own);
    out[name] = text::join(list, ":");
  }
  return out;
}

}  // namespace coctilis::locate
