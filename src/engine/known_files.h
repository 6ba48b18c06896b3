// Which files steps are known to have made or read, for who has to tell what a build did from what somebody else did.
#pragma once

#include <optional>
#include <string>
#include <unordered_set>

#include "base/file_stamp.h"

namespace coctilis::engine {

class KnownFiles {
 public:
  // By the journal at that path, which is read when something is asked first, and again when it has changed since.
  // Nothing is known while there is none, or when it cannot be read.
  explicit KnownFiles(std::string journal) : journal_(std::move(journal)) {}
  // True when a step has made the file (absolute), whatever became of it since.
  [[nodiscard]] bool is_made(const std::string& file);
  // The same of one that a step has read.
  [[nodiscard]] bool is_read(const std::string& file);

 private:
  void look();
  std::string journal_;
  std::optional<FileStamp> seen_;
  std::unordered_set<std::string> made_;
  std::unordered_set<std::string> read_;
};

}  // namespace coctilis::engine
