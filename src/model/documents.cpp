#include "model/documents.h"

#include <cctype>
#include <filesystem>
#include <set>

namespace coctilis::model {

bool is_document(const std::string& path) {
  static const std::set<std::string> endings = {".html", ".htm", ".info", ".pdf", ".ps",   ".dvi",
                                                ".man",  ".chm", ".epub", ".rtf", ".texi", ".docbook"};
  std::string name = std::filesystem::path(path).filename().string();
  if (name.ends_with(".gz")) name.resize(name.size() - 3);
  const auto dot = name.rfind('.');
  if (dot == std::string::npos || dot == 0) return false;
  const std::string ending = name.substr(dot);
  // A section of the manual: ".1", ".3pm".
  if (ending.size() > 1 && ending[1] >= '1' && ending[1] <= '8' && name.find(".so.") == std::string::npos &&
      (ending.size() == 2 || std::isalpha(static_cast<unsigned char>(ending[2])) != 0))
    return true;
  return endings.contains(ending);
}

}  // namespace coctilis::model
