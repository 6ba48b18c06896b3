// What the system tells of a file besides its content, and when that can stand for the content: only where a later
// change would show in it.
#pragma once

#include <sys/stat.h>

#include <cstdint>
#include <string>

namespace coctilis {

// Nanoseconds since 1970: of a time, now, and now on the coarser clock that files' times are taken from.
[[nodiscard]] std::int64_t nanoseconds(const timespec& time);
[[nodiscard]] std::int64_t wall_clock();
[[nodiscard]] std::int64_t file_clock();

// How far a file's time may lie behind the clock, in nanoseconds, by the ticks in which its file system seems to count.
[[nodiscard]] std::int64_t tick_of(std::int64_t modified, std::int64_t changed);

// All that changes with the content.
struct FileStamp {
  std::uint64_t inode = 0;
  std::uint64_t device = 0;
  std::uint64_t size = 0;
  std::int64_t modified = 0;  // nanoseconds since 1970
  std::int64_t changed = 0;   // the same, of its status: nobody can set it back
  std::uint32_t mode = 0;
  std::uint32_t unused = 0;  // so that no byte of a stamp that is written as it lies is left to chance

  [[nodiscard]] static FileStamp of(const struct stat& info);
  bool operator==(const FileStamp&) const = default;
  // True when a change after `when` (on the clock of files) shows in the stamp: the file was not so young then that a
  // later change could bear the same times.
  [[nodiscard]] bool tells_since(std::int64_t when) const;
  // As text, without the device: that may be numbered anew when the machine starts.
  [[nodiscard]] std::string text() const;
};

}  // namespace coctilis
