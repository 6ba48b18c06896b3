// The system calls by which this program writes what must not be lost: journal, records, copies, settings. All of them
// go through one object, so that a test can put one in its place that runs full, writes short or fails at any call.
#pragma once

#include <sys/types.h>

#include <cstddef>
#include <string>
#include <string_view>

namespace coctilis {

class Disk {
 public:
  virtual ~Disk() = default;
  // As the calls of these names do (POSIX.1-2024, XSH): -1 with errno for a failure.
  virtual int open(const char* path, int flags, mode_t mode);
  virtual ssize_t write(int fd, const void* bytes, std::size_t count);
  virtual int rename(const char* from, const char* to);
  virtual int truncate(int fd, off_t length);
  virtual int sync(int fd);
  virtual int make_folder(const char* path, mode_t mode);

  // Writes all of `bytes`, going on after interruptions and short writes. Returns 0, or the errno of the write that
  // failed; then some of it may be written.
  int write_all(int fd, std::string_view bytes);
};

// What to do when one of these calls failed with `error` (an errno) while something in a kiln was written.
[[nodiscard]] std::string remedy_for_writing(int error);
inline constexpr const char* remedy_for_full_disk =
    "make room on the disk, or choose a kiln on another with --kiln DIR";

// The disk in use: the system's own unless a test has put another there.
[[nodiscard]] Disk& disk();

// While one lives, `other` is the disk of the whole program. For tests.
class DiskInPlace {
 public:
  explicit DiskInPlace(Disk& other);
  ~DiskInPlace();
  DiskInPlace(const DiskInPlace&) = delete;
  DiskInPlace& operator=(const DiskInPlace&) = delete;

 private:
  Disk* before_;
};

}  // namespace coctilis
