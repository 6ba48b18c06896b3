#include "report/system_libraries.h"

#include <algorithm>

#include "base/files.h"

namespace coctilis::report {

namespace {

// The linker takes the shared library of a folder before the archive (ld, "-l").
std::string found_by_linker(const std::string& name, const std::vector<std::string>& folders) {
  for (const auto& folder : folders) {
    for (const char* ending : {".so", ".a"}) {
      if (const std::string path = folder + "/lib" + name + ending; files::is_file(path)) return path;
    }
  }
  return "-l" + name;
}

}  // namespace

std::vector<std::string> system_libraries_of(const model::PlannedTarget& target, const model::Run& run) {
  std::vector<std::string> folders;
  for (const auto& item : target.link_items) {
    if (item.starts_with("-L") && item.size() > 2) folders.push_back(item.substr(2));
  }
  const auto& usual = run.toolchain.any().link_folders;
  folders.insert(folders.end(), usual.begin(), usual.end());
  std::vector<std::string> out;
  for (const auto& item : target.link_items) {
    const std::string path = item.starts_with("-l") ? found_by_linker(item.substr(2), folders) : item;
    const bool is_library = path.starts_with("-l") || path.starts_with("/");
    if (!is_library || files::is_below(path, run.kiln) || files::is_below(path, run.tree)) continue;
    if (std::find(out.begin(), out.end(), path) == out.end()) out.push_back(path);
  }
  return out;
}

}  // namespace coctilis::report
