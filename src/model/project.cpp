#include "model/project.h"

#include <unordered_set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::model {

std::vector<std::string> object_paths(const Project& project, const std::string& unit, const std::string& folder,
                                      const std::string& work_folder, const std::vector<std::string>& sources) {
  const std::string& root = project.binary_root;
  const std::string own = root + "/.objects/" + (work_folder == root ? "" : files::below(work_folder, root) + "/") +
                          text::replace_all(unit, "/", "_") + "/";
  std::vector<std::string> out;
  std::unordered_set<std::string> taken;
  for (const auto& source : sources) {
    const std::string relative = files::is_below(source, folder)         ? files::below(source, folder)
                                 : files::is_below(source, root)         ? "generated/" + files::below(source, root)
                                 : files::is_below(source, project.tree) ? "tree/" + files::below(source, project.tree)
                                                                         : "outside" + source;
    const auto dot = relative.rfind('.');
    const bool ending = dot != std::string::npos && dot > relative.rfind('/') + 1;
    std::string object = own + (ending ? relative.substr(0, dot) : relative) + ".o";
    if (!taken.insert(object).second) {
      object = own + relative + ".o";
      taken.insert(object);
    }
    out.push_back(std::move(object));
  }
  return out;
}

}  // namespace coctilis::model
