#include "base/file_watch.h"

#include <fcntl.h>
#include <linux/audit.h>
#include <linux/filter.h>
#include <linux/seccomp.h>
#include <poll.h>
#include <sys/eventfd.h>
#include <sys/ioctl.h>
#include <sys/prctl.h>
#include <sys/syscall.h>
#include <sys/uio.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstddef>
#include <cstring>
#include <mutex>
#include <thread>
#include <unordered_map>
#include <vector>

#include "base/files.h"

namespace coctilis {

namespace {

#if defined(__x86_64__)
constexpr unsigned architecture = AUDIT_ARCH_X86_64;
#elif defined(__aarch64__)
constexpr unsigned architecture = AUDIT_ARCH_AARCH64;
#else
constexpr unsigned architecture = 0;  // nothing is watched
#endif

// What a system call does with the names among its arguments.
enum class Does { opens, opens_how, starts, asks, asks_where, writes };
struct Call {
  long number;
  Does does;
  int folder;             // which argument is the folder that the name counts from; -1: the working folder
  int name;               // which argument is the name
  int flags;              // which argument has the flags of open(2); -1: none
  int other_folder = -1;  // of a second name
  int other_name = -1;
};

constexpr Call calls[] = {
#ifdef SYS_open
    {SYS_open, Does::opens, -1, 0, 1},
    {SYS_creat, Does::writes, -1, 0, -1},
#endif
    {SYS_openat, Does::opens, 0, 1, 2},
    {SYS_openat2, Does::opens_how, 0, 1, 2},
    {SYS_execve, Does::starts, -1, 0, -1},
    {SYS_execveat, Does::starts, 0, 1, -1},
#ifdef SYS_rename
    {SYS_rename, Does::writes, -1, 0, -1, -1, 1},
    {SYS_link, Does::writes, -1, 1, -1},
    {SYS_symlink, Does::writes, -1, 1, -1},
    {SYS_unlink, Does::writes, -1, 0, -1},
    {SYS_mknod, Does::writes, -1, 0, -1},
    {SYS_mkdir, Does::writes, -1, 0, -1},
    {SYS_rmdir, Does::writes, -1, 0, -1},
    {SYS_chmod, Does::writes, -1, 0, -1},
#endif
#ifdef SYS_renameat
    {SYS_renameat, Does::writes, 0, 1, -1, 2, 3},
#endif
    {SYS_renameat2, Does::writes, 0, 1, -1, 2, 3},
    {SYS_linkat, Does::writes, 2, 3, -1},
    {SYS_symlinkat, Does::writes, 1, 2, -1},
    {SYS_unlinkat, Does::writes, 0, 1, -1},
    {SYS_mknodat, Does::writes, 0, 1, -1},
    {SYS_mkdirat, Does::writes, 0, 1, -1},
    {SYS_fchmodat, Does::writes, 0, 1, -1},
    {SYS_truncate, Does::writes, -1, 0, -1},
};
constexpr Call asking_calls[] = {
#ifdef SYS_stat
    {SYS_stat, Does::asks, -1, 0, -1},
    {SYS_lstat, Does::asks, -1, 0, -1},
    {SYS_access, Does::asks, -1, 0, -1},
    {SYS_readlink, Does::asks_where, -1, 0, -1},
#endif
    {SYS_newfstatat, Does::asks, 0, 1, 3},
    {SYS_statx, Does::asks, 0, 1, 2},
    {SYS_faccessat, Does::asks, 0, 1, -1},
#ifdef SYS_faccessat2
    {SYS_faccessat2, Does::asks, 0, 1, -1},
#endif
    {SYS_readlinkat, Does::asks_where, 0, 1, -1},
};

// Headers of kernels before Linux 6.6 do not have them.
constexpr unsigned long set_flags = _IOW('!', 4, std::uint64_t);
constexpr unsigned long synchronous_wake = 1;

const Call* call_of(long number) {
  for (const auto& call : calls) {
    if (call.number == number) return &call;
  }
  for (const auto& call : asking_calls) {
    if (call.number == number) return &call;
  }
  return nullptr;
}

// Lets this thread's calls of these kinds, and those of what it starts, be asked about; returns where, or -1.
int install_filter(WatchFor what) {
  if (architecture == 0) return -1;
  std::vector<long> numbers;
  for (const auto& call : calls) numbers.push_back(call.number);
  std::vector<sock_filter> program = {
      BPF_STMT(BPF_LD | BPF_W | BPF_ABS, offsetof(seccomp_data, arch)),
      BPF_JUMP(BPF_JMP | BPF_JEQ | BPF_K, architecture, 1, 0),
      BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_ALLOW),
      BPF_STMT(BPF_LD | BPF_W | BPF_ABS, offsetof(seccomp_data, nr)),
  };
  const auto ask = [&](long number) {
    program.push_back(BPF_JUMP(BPF_JMP | BPF_JEQ | BPF_K, static_cast<unsigned>(number), 0, 1));
    program.push_back(BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_USER_NOTIF));
  };
  for (const long number : numbers) ask(number);
  if (what == WatchFor::all || what == WatchFor::finding) {
    for (const auto& call : asking_calls) {
      if (call.does == Does::asks_where && what != WatchFor::all) continue;
      if (call.flags < 0) {
        ask(call.number);
        continue;
      }
      // With AT_EMPTY_PATH it asks about a file that is open.
      const auto argument = static_cast<unsigned>(offsetof(seccomp_data, args) +
                                                  static_cast<std::size_t>(call.flags) * sizeof(std::uint64_t));
      program.push_back(BPF_JUMP(BPF_JMP | BPF_JEQ | BPF_K, static_cast<unsigned>(call.number), 0, 4));
      program.push_back(BPF_STMT(BPF_LD | BPF_W | BPF_ABS, argument));
      program.push_back(BPF_JUMP(BPF_JMP | BPF_JSET | BPF_K, AT_EMPTY_PATH, 1, 0));
      program.push_back(BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_USER_NOTIF));
      program.push_back(BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_ALLOW));
    }
  }
  program.push_back(BPF_STMT(BPF_RET | BPF_K, SECCOMP_RET_ALLOW));
  const sock_fprog filter{static_cast<unsigned short>(program.size()), program.data()};
  if (::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0) != 0) return -1;
  const int listener =
      static_cast<int>(::syscall(SYS_seccomp, SECCOMP_SET_MODE_FILTER, SECCOMP_FILTER_FLAG_NEW_LISTENER, &filter));
  // Whoever asks waits for the answer: it is woken where the answer is given, and gives the processor up. (Linux 6.6;
  // where the kernel does not know it, nothing is lost.)
  if (listener >= 0) static_cast<void>(::ioctl(listener, set_flags, synchronous_wake));
  return listener;
}

// A text in the memory of another process, as far as it goes.
std::string text_at(pid_t pid, std::uint64_t address) {
  constexpr std::size_t page = 4096;
  std::string out;
  while (out.size() < 2 * page) {
    char buffer[page];
    const std::size_t wanted = page - address % page;
    const iovec here{buffer, wanted};
    const iovec there{reinterpret_cast<void*>(address), wanted};  // NOLINT: an address of the other process
    const ssize_t n = ::process_vm_readv(pid, &here, 1, &there, 1, 0);
    if (n <= 0) break;
    const auto length = ::strnlen(buffer, static_cast<std::size_t>(n));
    out.append(buffer, length);
    if (length < static_cast<std::size_t>(n)) break;
    address += static_cast<std::uint64_t>(n);
  }
  return out;
}

std::string link_at(const std::string& path) {
  char buffer[4096];
  const ssize_t n = ::readlink(path.c_str(), buffer, sizeof buffer);
  return n > 0 ? std::string(buffer, static_cast<std::size_t>(n)) : std::string{};
}

// The absolute name that an argument stands for; empty when it cannot be told.
std::string name_at(const seccomp_notif& asked, int folder, int name) {
  const auto pid = static_cast<pid_t>(asked.pid);
  const std::string text = text_at(pid, asked.data.args[name]);
  if (text.empty()) return {};
  if (text.front() == '/') return files::absolute(text, std::string("/"));
  const auto base = folder < 0 ? AT_FDCWD : static_cast<int>(asked.data.args[folder]);
  const std::string in = "/proc/" + std::to_string(pid) + (base == AT_FDCWD ? "/cwd" : "/fd/" + std::to_string(base));
  const std::string start = link_at(in);
  if (start.empty() || start.front() != '/') return {};
  return files::absolute(text, start);
}

}  // namespace

struct FileWatch::Session {
  std::mutex listening;  // held while the listener is used, and to close it
  int listener = -1;
  std::mutex mutex;  // of what was seen
  WatchedFiles all;
  bool each = false;
  std::unordered_map<pid_t, WatchedFiles> by_process;

  void note(const seccomp_notif& asked) {
    const Call* call = call_of(asked.data.nr);
    if (call == nullptr) return;
    std::string name = name_at(asked, call->folder, call->name);
    if (name.empty()) return;
    std::string other;
    if (call->other_name >= 0) other = name_at(asked, call->other_folder, call->other_name);
    std::uint64_t flags = call->flags >= 0 ? asked.data.args[call->flags] : 0;
    if (call->does == Does::opens_how) {
      const std::string how = text_at_most(static_cast<pid_t>(asked.pid), flags, sizeof flags);
      flags = 0;
      std::memcpy(&flags, how.data(), std::min(how.size(), sizeof flags));
    }
    const std::scoped_lock lock(mutex);
    WatchedFiles& seen = each ? by_process[static_cast<pid_t>(asked.pid)] : all;
    switch (call->does) {
      case Does::starts:
        seen.programs.insert(name);
        seen.read.insert(std::move(name));
        break;
      case Does::asks:
      case Does::asks_where: seen.asked.insert(std::move(name)); break;
      case Does::writes:
        seen.written.insert(std::move(name));
        if (!other.empty()) seen.written.insert(std::move(other));
        break;
      case Does::opens:
      case Does::opens_how:
        if ((flags & O_PATH) != 0) {
          seen.asked.insert(std::move(name));
        } else if ((flags & O_ACCMODE) != O_RDONLY || (flags & (O_CREAT | O_TRUNC)) != 0) {
          // What is there and only added to, or read as well, counts as read too if it was not made by the same.
          if ((flags & O_ACCMODE) == O_RDWR && (flags & (O_TRUNC | O_CREAT)) == 0) seen.read.insert(name);
          seen.written.insert(std::move(name));
        } else if ((flags & O_DIRECTORY) != 0) {
          seen.listed.insert(std::move(name));
        } else {
          seen.read.insert(std::move(name));
        }
        break;
    }
  }

  // As many bytes, whatever they are.
  static std::string text_at_most(pid_t pid, std::uint64_t address, std::size_t count) {
    std::string out(count, '\0');
    const iovec here{out.data(), count};
    const iovec there{reinterpret_cast<void*>(address), count};  // NOLINT: an address of the other process
    const ssize_t n = ::process_vm_readv(pid, &here, 1, &there, 1, 0);
    out.resize(n > 0 ? static_cast<std::size_t>(n) : 0);
    return out;
  }

  // Answers what is asked now: everything may go on.
  void answer() {
    const std::scoped_lock lock(listening);
    if (listener < 0) return;
    // The kernel may know longer forms of both than these headers do.
    alignas(seccomp_notif) char question[512] = {};
    auto& asked = *reinterpret_cast<seccomp_notif*>(question);
    if (::ioctl(listener, SECCOMP_IOCTL_NOTIF_RECV, &asked) != 0) return;
    try {
      note(asked);
    } catch (...) {  // NOLINT: whoever asks waits for the answer
    }
    alignas(seccomp_notif_resp) char reply[512] = {};
    auto& answer = *reinterpret_cast<seccomp_notif_resp*>(reply);
    answer.id = asked.id;
    answer.flags = SECCOMP_USER_NOTIF_FLAG_CONTINUE;
    ::ioctl(listener, SECCOMP_IOCTL_NOTIF_SEND, &answer);
  }
};

namespace {

// One thread answers for all watches.
template <class Session>
class Answering {
 public:
  static Answering& instance() {
    // Never destroyed: threads may still wait in it when the program ends.
    static auto* one = new Answering;
    return *one;
  }
  // A thread that is started by one that is watched would have to answer itself: it is started before any is.
  void begin() {
    const std::scoped_lock lock(mutex_);
    if (wake_ >= 0) return;
    wake_ = ::eventfd(0, EFD_CLOEXEC | EFD_NONBLOCK);
    if (wake_ >= 0) std::thread([this] { run(); }).detach();
  }
  bool add(const std::shared_ptr<Session>& session) {
    const std::scoped_lock lock(mutex_);
    if (wake_ < 0) return false;
    sessions_.push_back(session);
    wake();
    return true;
  }
  void remove(const std::shared_ptr<Session>& session) {
    const std::scoped_lock lock(mutex_);
    std::erase(sessions_, session);
    wake();
  }

 private:
  void wake() const {
    const std::uint64_t one = 1;
    static_cast<void>(!::write(wake_, &one, sizeof one));
  }
  void run() {
    std::vector<std::shared_ptr<Session>> now;
    std::vector<pollfd> fds;
    for (;;) {
      {
        const std::scoped_lock lock(mutex_);
        now = sessions_;
      }
      fds.assign(1, {wake_, POLLIN, 0});
      for (const auto& session : now) fds.push_back({session->listener, POLLIN, 0});
      if (::poll(fds.data(), fds.size(), -1) < 0 && errno != EINTR) return;
      std::uint64_t count = 0;
      if ((fds[0].revents & POLLIN) != 0) static_cast<void>(!::read(wake_, &count, sizeof count));
      for (std::size_t i = 0; i < now.size(); ++i) {
        if ((fds[i + 1].revents & POLLIN) != 0) {
          now[i]->answer();
        } else if ((fds[i + 1].revents & (POLLHUP | POLLERR | POLLNVAL)) != 0) {
          // All that it watched has ended.
          const std::scoped_lock lock(mutex_);
          std::erase(sessions_, now[i]);
        }
      }
      now.clear();
    }
  }

  std::mutex mutex_;
  int wake_ = -1;
  std::vector<std::shared_ptr<Session>> sessions_;
};

}  // namespace

FileWatch::FileWatch() : session_(std::make_shared<Session>()) { Answering<Session>::instance().begin(); }

FileWatch::~FileWatch() {
  if (session_->listener >= 0) static_cast<void>(end());
}

bool FileWatch::possible() {
  const std::uint32_t action = SECCOMP_RET_USER_NOTIF;
  return architecture != 0 && ::syscall(SYS_seccomp, SECCOMP_GET_ACTION_AVAIL, 0, &action) == 0;
}

bool FileWatch::begin(WatchFor what, bool each) {
  session_->each = each;
  session_->listener = install_filter(what);
  if (session_->listener < 0) return false;
  if (Answering<Session>::instance().add(session_)) return true;
  // Nobody would answer: its calls fail from here on instead of waiting for ever.
  ::close(session_->listener);
  session_->listener = -1;
  return false;
}

WatchedFiles FileWatch::end() {
  Answering<Session>::instance().remove(session_);
  {
    const std::scoped_lock lock(session_->listening);
    if (session_->listener >= 0) ::close(session_->listener);
    session_->listener = -1;
  }
  const std::scoped_lock lock(session_->mutex);
  for (auto& [process, files] : session_->by_process) session_->all.add(std::move(files));
  session_->by_process.clear();
  return std::move(session_->all);
}

WatchedFiles FileWatch::take(pid_t process) {
  const std::scoped_lock lock(session_->mutex);
  const auto it = session_->by_process.find(process);
  if (it == session_->by_process.end()) return {};
  WatchedFiles out = std::move(it->second);
  session_->by_process.erase(it);
  return out;
}

bool tells_of_running_system(const std::string& path) {
  static constexpr const char* folders[] = {"/proc", "/sys", "/dev", "/run"};
  return std::any_of(std::begin(folders), std::end(folders),
                     [&](const char* folder) { return files::is_below(path, folder); });
}

bool may_have_a_say(const std::string& path) {
  static constexpr const char* folders[] = {"/var/run", "/var/cache"};
  static constexpr const char* single[] = {"/etc/ld.so.cache",   "/etc/ld.so.preload", "/etc/passwd",   "/etc/group",
                                           "/etc/nsswitch.conf", "/etc/localtime",     "/etc/mtab",     "/etc/hosts",
                                           "/etc/resolv.conf",   "/etc/locale.alias",  "/etc/host.conf"};
  if (tells_of_running_system(path) ||
      std::any_of(std::begin(folders), std::end(folders),
                  [&](const char* folder) { return files::is_below(path, folder); }) ||
      std::any_of(std::begin(single), std::end(single), [&](const char* file) { return path == file; }) ||
      path.find("/locale/") != std::string::npos || path.find("/locale-archive") != std::string::npos ||
      path.find("/gconv") != std::string::npos)
    return false;
  if ((files::is_below(path, "/tmp") || files::is_below(path, "/var/tmp")) && !files::is_file(path)) return false;
  const bool of_the_loader =
      path.starts_with("/lib") || path.starts_with("/usr/lib") || path.starts_with("/usr/local/lib");
  return !of_the_loader || path.find(".so", path.rfind('/') + 1) == std::string::npos;
}

void WatchedFiles::add(WatchedFiles&& other) {
  read.merge(other.read);
  asked.merge(other.asked);
  listed.merge(other.listed);
  written.merge(other.written);
  programs.merge(other.programs);
}

std::string WatchedFiles::text() const {
  std::string out;
  const auto add = [&](char letter, const std::unordered_set<std::string>& names) {
    for (const auto& name : names) {
      if (name.find('\n') == std::string::npos) out.append(1, letter).append(name).append(1, '\n');
    }
  };
  add('r', read);
  add('a', asked);
  add('l', listed);
  add('w', written);
  add('x', programs);
  return out;
}

WatchedFiles WatchedFiles::from(std::string_view text) {
  WatchedFiles out;
  while (!text.empty()) {
    const auto end = std::min(text.find('\n'), text.size());
    const std::string_view line = text.substr(0, end);
    text.remove_prefix(std::min(end + 1, text.size()));
    if (line.size() < 2) continue;
    const std::string name(line.substr(1));
    switch (line.front()) {
      case 'r': out.read.insert(name); break;
      case 'a': out.asked.insert(name); break;
      case 'l': out.listed.insert(name); break;
      case 'w': out.written.insert(name); break;
      case 'x': out.programs.insert(name); break;
      default: break;
    }
  }
  return out;
}

}  // namespace coctilis
