// Waits until something in a tree changes (inotify(7)).
#pragma once

#include <map>
#include <string>
#include <vector>

namespace coctilis {

class TreeWatch {
 public:
  // All folders below `folder` but those in `except` (absolute paths) and those of version control; links are not
  // followed. Throws Fault (Exit::usage) when the system does not let so many be watched.
  TreeWatch(std::string folder, std::vector<std::string> except);
  ~TreeWatch();
  TreeWatch(const TreeWatch&) = delete;
  TreeWatch& operator=(const TreeWatch&) = delete;

  // Returns when something has changed since the last call, or the construction, and then nothing for a tenth of a
  // second; what has, from the folder: the first of it that is there then, for many write a file beside and move it to
  // its place. Empty when the program was interrupted.
  [[nodiscard]] std::string wait();
  [[nodiscard]] std::size_t folders() const { return folders_.size(); }

 private:
  void add(const std::string& folder);
  // Takes what has come, and adds the names that count to `names`.
  void take(std::vector<std::string>& names);

  std::string folder_;
  std::vector<std::string> except_;
  int fd_ = -1;
  std::map<int, std::string> folders_;
};

}  // namespace coctilis
