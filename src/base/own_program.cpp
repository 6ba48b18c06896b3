#include "base/own_program.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/utsname.h>

#include <filesystem>
#include <thread>

#include "base/file_stamp.h"

namespace coctilis {

std::string own_program() {
  std::error_code error;
  return std::filesystem::read_symlink("/proc/self/exe", error).string();
}

std::string own_identity() {
  struct stat info {};
  if (::stat("/proc/self/exe", &info) != 0) return {};
  struct utsname system {};
  ::uname(&system);
  return fmt::format("{} {} {} {} {}", FileStamp::of(info).text(), system.nodename, system.release, system.machine,
                     std::thread::hardware_concurrency());
}

}  // namespace coctilis
