#include "base/shared_count.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>

#include <atomic>

namespace coctilis {

namespace {
constexpr std::size_t bytes = 2 * sizeof(std::uint64_t);
}

SharedCount::SharedCount(const std::string& path) {
  const int fd = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0600);
  if (fd < 0) return;
  if (::ftruncate(fd, bytes) == 0) {
    void* at = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0);
    if (at != MAP_FAILED) words_ = static_cast<std::uint64_t*>(at);
  }
  ::close(fd);
}

SharedCount::~SharedCount() {
  if (words_ != nullptr) ::munmap(words_, bytes);
}

void SharedCount::add(std::int64_t done, std::int64_t total) {
  if (words_ == nullptr) return;
  std::atomic_ref(words_[0]).fetch_add(static_cast<std::uint64_t>(done));
  std::atomic_ref(words_[1]).fetch_add(static_cast<std::uint64_t>(total));
}

SharedCount::Values SharedCount::values() const {
  if (words_ == nullptr) return {};
  return {std::atomic_ref(words_[0]).load(), std::atomic_ref(words_[1]).load()};
}

}  // namespace coctilis
