#include "base/file_stamp.h"

#include <fmt/format.h>

#include <algorithm>
#include <ctime>

namespace coctilis {

namespace {
std::int64_t read_clock(clockid_t clock) {
  timespec time{};
  ::clock_gettime(clock, &time);
  return nanoseconds(time);
}
}  // namespace

std::int64_t nanoseconds(const timespec& time) { return std::int64_t{time.tv_sec} * 1'000'000'000 + time.tv_nsec; }
std::int64_t wall_clock() { return read_clock(CLOCK_REALTIME); }
std::int64_t file_clock() { return read_clock(CLOCK_REALTIME_COARSE); }

std::int64_t tick_of(std::int64_t modified, std::int64_t changed) {
  constexpr std::int64_t second = 1'000'000'000;
  // Where times are whole seconds, they may be whole pairs of seconds.
  constexpr std::int64_t coarse = 2'100'000'000;
  // The kernel's own clock for files moves some hundred times a second.
  constexpr std::int64_t fine = 20'000'000;
  return modified % second == 0 && changed % second == 0 ? coarse : fine;
}

FileStamp FileStamp::of(const struct stat& info) {
  return {info.st_ino,
          info.st_dev,
          static_cast<std::uint64_t>(info.st_size),
          nanoseconds(info.st_mtim),
          nanoseconds(info.st_ctim),
          info.st_mode,
          0};
}

bool FileStamp::tells_since(std::int64_t when) const {
  return std::max(changed, modified) + tick_of(modified, changed) < when;
}

std::string FileStamp::text() const { return fmt::format("{} {} {} {} {:o}", inode, size, modified, changed, mode); }

}  // namespace coctilis
