#include "model/project.h"

#include "base/files.h"
#include "base/text.h"

namespace coctilis::model {

std::string object_path(const Project& project, const std::string& unit, const std::string& folder,
                        const std::string& work_folder, const std::string& source) {
  const std::string& root = project.binary_root;
  const std::string relative = files::is_below(source, folder)         ? files::below(source, folder)
                               : files::is_below(source, root)         ? "generated/" + files::below(source, root)
                               : files::is_below(source, project.tree) ? "tree/" + files::below(source, project.tree)
                                                                       : "outside" + source;
  return root + "/.objects/" + (work_folder == root ? "" : files::below(work_folder, root) + "/") +
         text::replace_all(unit, "/", "_") + "/" + relative + ".o";
}

}  // namespace coctilis::model
