#include "base/folder_stamps.h"

#include <sys/stat.h>

#include <filesystem>

#include "base/files.h"

namespace coctilis {

std::map<std::string, FileStamp> stamps_below(const std::string& folder) {
  std::map<std::string, FileStamp> out;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(folder, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    struct stat info {};
    if (::lstat(it->path().c_str(), &info) == 0 && !S_ISDIR(info.st_mode))
      out[files::below(it->path().string(), folder)] = FileStamp::of(info);
  }
  return out;
}

std::string listing_of(const std::string& folder) {
  std::string out;
  for (const auto& [name, stamp] : stamps_below(folder)) out += stamp.text() + " " + name + "\n";
  return out;
}

}  // namespace coctilis
