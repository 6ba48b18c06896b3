#include "base/job_tokens.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>

#include "base/files.h"

namespace coctilis {

void JobTokens::make(const std::string& path, unsigned count) { files::write(path, std::string(count, '+')); }

JobTokens::JobTokens(const std::string& path) { fd_ = ::open(path.c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW); }

JobTokens::~JobTokens() {
  if (fd_ >= 0) ::close(fd_);
}

// By open file descriptions, not by processes (fcntl(2), "Open file description locks"): two of one process are two.
bool JobTokens::lock(long byte, bool yes) const {
  struct flock area {};
  area.l_type = static_cast<short>(yes ? F_WRLCK : F_UNLCK);
  area.l_whence = SEEK_SET;
  area.l_start = byte;
  area.l_len = 1;
  return ::fcntl(fd_, F_OFD_SETLK, &area) == 0;
}

bool JobTokens::take() {
  struct stat info {};
  if (fd_ < 0 || ::fstat(fd_, &info) != 0) return false;
  // What commands of the tree may do to the file is no reason to look for ever.
  constexpr off_t most = 4096;
  for (long byte = 0; byte < std::min(info.st_size, most); ++byte) {
    if (std::find(taken_.begin(), taken_.end(), byte) != taken_.end() || !lock(byte, true)) continue;
    taken_.push_back(byte);
    return true;
  }
  return false;
}

void JobTokens::give_back_all_but(std::size_t keep) {
  while (taken_.size() > keep) {
    lock(taken_.back(), false);
    taken_.pop_back();
  }
}

}  // namespace coctilis
