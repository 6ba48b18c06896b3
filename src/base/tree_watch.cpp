#include "base/tree_watch.h"

#include <poll.h>
#include <sys/inotify.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>

#include "base/files.h"
#include "base/process.h"
#include "base/result.h"
#include "base/text.h"

namespace coctilis {

namespace {

constexpr std::uint32_t changes = IN_CLOSE_WRITE | IN_ATTRIB | IN_CREATE | IN_DELETE | IN_MOVED_FROM | IN_MOVED_TO |
                                  IN_DELETE_SELF | IN_MOVE_SELF | IN_ONLYDIR | IN_DONT_FOLLOW;
constexpr int quiet_milliseconds = 100;

}  // namespace

TreeWatch::TreeWatch(std::string folder, std::vector<std::string> except)
    : folder_(std::move(folder)), except_(std::move(except)), fd_(::inotify_init1(IN_CLOEXEC | IN_NONBLOCK)) {
  if (fd_ < 0)
    throw Fault(
        {Exit::usage, {}, "this system does not tell of changes", std::strerror(errno), "leave --watch out", {}});
  add(folder_);
}

TreeWatch::~TreeWatch() {
  if (fd_ >= 0) ::close(fd_);
}

void TreeWatch::add(const std::string& folder) {
  if (std::find(except_.begin(), except_.end(), folder) != except_.end()) return;
  const std::string name = folder.substr(folder.rfind('/') + 1);
  if (name == ".git" || name == ".hg" || name == ".svn") return;
  const int watch = ::inotify_add_watch(fd_, folder.c_str(), changes);
  if (watch < 0) {
    if (errno != ENOSPC && errno != ENOMEM) return;  // it is gone again, or may not be read
    throw Fault({Exit::usage,
                 {},
                 "the tree has more folders than this system lets be watched",
                 std::strerror(errno),
                 "raise /proc/sys/fs/inotify/max_user_watches, or leave --watch out",
                 {}});
  }
  folders_[watch] = folder;
  std::error_code error;
  for (auto it = std::filesystem::directory_iterator(folder, error);
       !error && it != std::filesystem::directory_iterator(); it.increment(error)) {
    if (it->is_directory(error) && !it->is_symlink(error)) add(it->path().string());
  }
}

void TreeWatch::take(std::vector<std::string>& names) {
  constexpr std::size_t most = 1000;
  const auto changed = [&](std::string name) {
    if (names.size() < most) names.push_back(std::move(name));
  };
  alignas(inotify_event) char buffer[16384];
  for (;;) {
    const ssize_t length = ::read(fd_, buffer, sizeof buffer);
    if (length <= 0) return;
    for (ssize_t at = 0; at < length;) {
      const auto* event = reinterpret_cast<const inotify_event*>(buffer + at);
      at += static_cast<ssize_t>(sizeof(inotify_event) + event->len);
      if ((event->mask & IN_Q_OVERFLOW) != 0) changed(".");
      const auto it = folders_.find(event->wd);
      if (it == folders_.end()) continue;
      if ((event->mask & IN_IGNORED) != 0) {
        folders_.erase(it);
        continue;
      }
      const std::string path = event->len > 0 ? it->second + "/" + event->name : it->second;
      if (std::any_of(except_.begin(), except_.end(), [&](const auto& other) { return files::is_below(path, other); }))
        continue;
      // What happens to the times and modes of a folder is nobody's concern.
      if ((event->mask & IN_ISDIR) != 0 && (event->mask & IN_ATTRIB) != 0) continue;
      if ((event->mask & IN_ISDIR) != 0 && (event->mask & (IN_CREATE | IN_MOVED_TO)) != 0) add(path);
      changed(files::below(path, folder_));
    }
  }
}

std::string TreeWatch::wait() {
  std::vector<std::string> names;
  take(names);
  while (interrupted_by == 0) {
    pollfd one{fd_, POLLIN, 0};
    const int came = ::poll(&one, 1, names.empty() ? 1000 : quiet_milliseconds);
    if (came > 0) take(names);
    if (came != 0 || names.empty()) continue;
    const auto there = std::find_if(names.begin(), names.end(), [&](const auto& name) {
      return name != "." && files::exists(folder_ + "/" + name);
    });
    return there != names.end() ? *there : names.front();
  }
  return {};
}

}  // namespace coctilis
