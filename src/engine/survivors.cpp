#include "engine/survivors.h"

#include <dirent.h>
#include <fcntl.h>
#include <signal.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "base/process.h"

namespace coctilis::engine {

namespace {

constexpr const char* variable = "COCTILIS_KILN";

pid_t parent_of(pid_t pid) {
  const std::string stat = files::read_system_file("/proc/" + std::to_string(pid) + "/stat");
  // The name, in brackets, may hold anything (proc(5)).
  const auto end = stat.rfind(')');
  if (end == std::string::npos) return 0;
  const auto space = stat.find(' ', end + 2);
  return space == std::string::npos ? 0 : static_cast<pid_t>(std::atoi(stat.c_str() + space));
}

bool works_for(pid_t pid, const std::string& kiln) {
  const std::string all = files::read_system_file("/proc/" + std::to_string(pid) + "/environ");
  const std::string wanted = std::string(variable) + "=";
  for (std::size_t at = 0; at < all.size();) {
    const auto end = std::min(all.find('\0', at), all.size());
    if (all.compare(at, wanted.size(), wanted) == 0)
      return files::is_below(all.substr(at + wanted.size(), end - at - wanted.size()), kiln);
    at = end + 1;
  }
  return false;
}

}  // namespace

void mark_children(const std::string& kiln) { ::setenv(variable, kiln.c_str(), 1); }

std::vector<pid_t> survivors(const std::string& kiln) {
  std::vector<pid_t> above;
  for (pid_t pid = ::getpid(); pid > 0; pid = parent_of(pid)) above.push_back(pid);
  std::vector<pid_t> out;
  DIR* stream = ::opendir("/proc");
  if (stream == nullptr) return out;
  while (const dirent* entry = ::readdir(stream)) {
    const auto pid = static_cast<pid_t>(std::atoi(entry->d_name));
    if (pid > 0 && std::find(above.begin(), above.end(), pid) == above.end() && works_for(pid, kiln))
      out.push_back(pid);
  }
  ::closedir(stream);
  return out;
}

std::vector<pid_t> end_survivors(const std::string& kiln) {
  const double until = now() + 2;
  for (;;) {
    // Those that are ended may have started others meanwhile.
    const auto left = survivors(kiln);
    if (left.empty() || now() > until) return left;
    for (const pid_t pid : left) ::kill(pid, SIGKILL);
    ::usleep(5000);
  }
}

}  // namespace coctilis::engine
