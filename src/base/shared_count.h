// A count of steps that processes of one run share: those that recipes and scripts start add to it, the run that shows
// progress reads it. It lies in a file.
#pragma once

#include <cstdint>
#include <string>

namespace coctilis {

class SharedCount {
 public:
  struct Values {
    std::uint64_t done = 0;   // steps that have ended
    std::uint64_t total = 0;  // steps that are known to have to run; smaller than `done` while nobody knows
  };

  // Opens the count in `path`; it starts at zero when the file is not there yet. A file that cannot be had makes a
  // count that stays at zero: progress is no reason to fail. What a tree's commands do to the file can spoil the
  // numbers, nothing else.
  explicit SharedCount(const std::string& path);
  ~SharedCount();
  SharedCount(const SharedCount&) = delete;
  SharedCount& operator=(const SharedCount&) = delete;

  void add(std::int64_t done, std::int64_t total);
  [[nodiscard]] Values values() const;

 private:
  int fd_ = -1;
};

}  // namespace coctilis
