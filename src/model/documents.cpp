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
  if (endings.contains(ending)) return true;
  // What is text or a picture elsewhere is a document in a folder for them.
  static const std::set<std::string> folders = {"doc", "docs", "documentation", "man", "manual", "manuals"};
  static const std::set<std::string> texts = {".xml", ".txt", ".md",  ".rst",  ".tex", ".sgml", ".png",
                                              ".svg", ".eps", ".jpg", ".adoc", ".css", ".xsl",  ".bib"};
  const std::filesystem::path folder = std::filesystem::path(path).parent_path();
  return texts.contains(ending) &&
         (folders.contains(folder.filename().string()) || folders.contains(folder.parent_path().filename().string()));
}

}  // namespace coctilis::model
