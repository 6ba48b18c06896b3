#include "base/disk.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdio>

namespace coctilis {

namespace {
Disk real;
std::atomic<Disk*> disk_in_use{&real};
}  // namespace

int Disk::open(const char* path, int flags, mode_t mode) { return ::open(path, flags | O_CLOEXEC, mode); }
ssize_t Disk::write(int fd, const void* bytes, std::size_t count) { return ::write(fd, bytes, count); }
int Disk::rename(const char* from, const char* to) { return ::rename(from, to); }
int Disk::truncate(int fd, off_t length) { return ::ftruncate(fd, length); }
int Disk::sync(int fd) { return ::fsync(fd); }
int Disk::make_folder(const char* path, mode_t mode) { return ::mkdir(path, mode); }

int Disk::write_all(int fd, std::string_view bytes) {
  while (!bytes.empty()) {
    const ssize_t n = write(fd, bytes.data(), bytes.size());
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return errno;
    // POSIX leaves open what 0 means for a file; taking it for progress would have no end.
    if (n == 0) return ENOSPC;
    bytes.remove_prefix(static_cast<std::size_t>(n));
  }
  return 0;
}

std::string remedy_for_writing(int error) {
  if (error == ENOSPC || error == EDQUOT) return remedy_for_full_disk;
  if (error == EIO)
    return "look at the system's log for what is wrong with the disk, or choose a kiln on another with --kiln DIR";
  return "choose another folder with --kiln DIR, or make this one writable";
}

Disk& disk() { return *disk_in_use.load(std::memory_order_relaxed); }

DiskInPlace::DiskInPlace(Disk& other) : before_(disk_in_use.exchange(&other)) {}
DiskInPlace::~DiskInPlace() { disk_in_use = before_; }

}  // namespace coctilis
