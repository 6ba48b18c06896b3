// Leave to run processes, shared by all makes of one run: a file with a byte for each process that may run besides the
// first. Who locks a byte may run one; when a make ends, however it does, its leave is free again.
#pragma once

#include <string>
#include <vector>

namespace coctilis {

class JobTokens {
 public:
  // Makes the file `path` with leave for `count` processes. Throws Fault (Exit::kiln).
  static void make(const std::string& path, unsigned count);
  // Opens it; where that cannot be, there is no leave to be had.
  explicit JobTokens(const std::string& path);
  ~JobTokens();
  JobTokens(const JobTokens&) = delete;
  JobTokens& operator=(const JobTokens&) = delete;

  // Takes leave for one more process, without waiting; false when there is none now.
  [[nodiscard]] bool take();
  // Gives back all but `keep` of those that were taken.
  void give_back_all_but(std::size_t keep);
  [[nodiscard]] std::size_t taken() const { return taken_.size(); }

 private:
  bool lock(long byte, bool yes) const;
  int fd_ = -1;
  std::vector<long> taken_;
};

}  // namespace coctilis
