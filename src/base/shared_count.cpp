#include "base/shared_count.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

namespace coctilis {

namespace {
// Read, not mapped: a file that somebody else cuts short must not end this program.
SharedCount::Values read_from(int fd) {
  std::uint64_t words[2] = {};
  if (fd < 0 || ::pread(fd, words, sizeof words, 0) != static_cast<ssize_t>(sizeof words)) return {};
  return {words[0], words[1]};
}
}  // namespace

SharedCount::SharedCount(const std::string& path)
    : fd_(path.empty() ? -1 : ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0600)) {}

SharedCount::~SharedCount() {
  if (fd_ >= 0) ::close(fd_);
}

void SharedCount::add(std::int64_t done, std::int64_t total) {
  if (fd_ < 0 || (done == 0 && total == 0)) return;
  ::flock(fd_, LOCK_EX);
  const Values is = read_from(fd_);
  const std::uint64_t words[2] = {is.done + static_cast<std::uint64_t>(done),
                                  is.total + static_cast<std::uint64_t>(total)};
  (void)!::pwrite(fd_, words, sizeof words, 0);
  ::flock(fd_, LOCK_UN);
}

SharedCount::Values SharedCount::values() const { return read_from(fd_); }

}  // namespace coctilis
