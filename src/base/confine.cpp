#include "base/confine.h"

#include <fcntl.h>
#include <linux/landlock.h>
#include <re2/re2.h>
#include <sched.h>
#include <sys/mount.h>
#include <sys/prctl.h>
#include <sys/statvfs.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <algorithm>
#include <condition_variable>
#include <csignal>
#include <cstdlib>
#include <exception>
#include <filesystem>
#include <memory>
#include <mutex>
#include <thread>
#include <utility>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"

namespace coctilis {

namespace {

// Newer kernels know more rights than these headers may (Linux, userspace-api/landlock: since ABI 2 and 3).
constexpr std::uint64_t right_to_move = 1ULL << 13U;
constexpr std::uint64_t right_to_truncate = 1ULL << 14U;

std::uint64_t handled_rights() {
  const long version = ::syscall(SYS_landlock_create_ruleset, nullptr, 0, LANDLOCK_CREATE_RULESET_VERSION);
  if (version < 1) return 0;
  std::uint64_t rights = LANDLOCK_ACCESS_FS_WRITE_FILE | LANDLOCK_ACCESS_FS_REMOVE_DIR |
                         LANDLOCK_ACCESS_FS_REMOVE_FILE | LANDLOCK_ACCESS_FS_MAKE_CHAR | LANDLOCK_ACCESS_FS_MAKE_DIR |
                         LANDLOCK_ACCESS_FS_MAKE_REG | LANDLOCK_ACCESS_FS_MAKE_SOCK | LANDLOCK_ACCESS_FS_MAKE_FIFO |
                         LANDLOCK_ACCESS_FS_MAKE_BLOCK | LANDLOCK_ACCESS_FS_MAKE_SYM;
  // Without it files could not be moved or linked from one folder to another at all.
  if (version >= 2) rights |= right_to_move;
  if (version >= 3) rights |= right_to_truncate;
  return rights;
}

constexpr std::uint64_t rights_on_files = LANDLOCK_ACCESS_FS_WRITE_FILE | right_to_truncate;

}  // namespace

bool confine_this_thread(const std::vector<std::string>& writable) {
  static const std::uint64_t handled = handled_rights();
  if (handled == 0) return false;
  const observe::Apart own;
  landlock_ruleset_attr rules{};
  rules.handled_access_fs = handled;
  const int set = static_cast<int>(::syscall(SYS_landlock_create_ruleset, &rules, sizeof rules, 0));
  if (set < 0) return false;
  bool good = true;
  const auto allow = [&](const std::string& path) {
    landlock_path_beneath_attr below{};
    below.allowed_access = files::is_folder(path) ? handled : handled & rights_on_files;
    below.parent_fd = ::open(path.c_str(), O_PATH | O_CLOEXEC);
    if (below.parent_fd < 0) return;
    good = ::syscall(SYS_landlock_add_rule, set, LANDLOCK_RULE_PATH_BENEATH, &below, 0) == 0 && good;
    ::close(below.parent_fd);
  };
  for (const auto& path : writable) allow(path);
  allow("/dev");
  good = good && ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0) == 0 && ::syscall(SYS_landlock_restrict_self, set, 0) == 0;
  ::close(set);
  return good;
}

namespace {

// The thread that is not limited: it is started before any that is, and does what others ask of it, one after the
// other.
class Unlimited {
 public:
  static Unlimited& instance() {
    // Never destroyed: its thread may still wait in it when the program ends.
    static auto* one = new Unlimited;
    return *one;
  }
  void call(const std::function<void()>& work) {
    const std::lock_guard turn(turn_);
    std::unique_lock lock(guard_);
    work_ = &work;
    changed_.notify_all();
    changed_.wait(lock, [&] { return work_ == nullptr; });
    if (thrown_) std::rethrow_exception(std::exchange(thrown_, nullptr));
  }

 private:
  Unlimited() {
    sigset_t all;
    sigset_t before;
    sigfillset(&all);
    ::pthread_sigmask(SIG_SETMASK, &all, &before);
    std::thread([this] { run(); }).detach();
    ::pthread_sigmask(SIG_SETMASK, &before, nullptr);
  }
  [[noreturn]] void run() {
    std::unique_lock lock(guard_);
    for (;;) {
      changed_.wait(lock, [&] { return work_ != nullptr; });
      const auto* work = work_;
      lock.unlock();
      try {
        (*work)();
      } catch (...) {
        thrown_ = std::current_exception();
      }
      lock.lock();
      work_ = nullptr;
      changed_.notify_all();
    }
  }

  std::mutex turn_;
  std::mutex guard_;
  std::condition_variable changed_;
  const std::function<void()>* work_ = nullptr;
  std::exception_ptr thrown_;
};

// What holds while a limit does: one at a time in a program.
struct Limit {
  std::vector<std::string> folders;
  std::unique_ptr<files::ScratchFolder> temporary;
};
std::unique_ptr<Limit> limit;
// Threads of the one that is not limited have to know that they are not.
thread_local bool is_unlimited = false;

}  // namespace

std::string why_no_limit() {
  const long version = ::syscall(SYS_landlock_create_ruleset, nullptr, 0, LANDLOCK_CREATE_RULESET_VERSION);
  // Before the third version (Linux 6.2) files could not be moved between folders, or could be cut short anywhere.
  return version >= 3 ? "" : "Landlock of Linux 6.2 or newer is missing";
}

void with_writing_limited_to(const std::vector<std::string>& folders, const std::function<void()>& work) {
  if (limit != nullptr || !why_no_limit().empty()) {
    work();
    return;
  }
  (void)Unlimited::instance();
  auto holds = std::make_unique<Limit>();
  holds->folders = folders;
  // Programs that a compiler check has made are run there.
  for (const auto& place : {files::temporary_folder(), std::string("/var/tmp"), folders.front()}) {
    struct statvfs disk {};
    files::put_scratch_folders_in(place);
    if (::statvfs(place.c_str(), &disk) == 0 && (disk.f_flag & ST_NOEXEC) == 0) break;
  }
  holds->temporary = std::make_unique<files::ScratchFolder>("run");
  std::vector<std::string> all = folders;
  all.push_back(holds->temporary->path().string());
  limit = std::move(holds);
  files::put_scratch_folders_in(all.back());
  std::exception_ptr thrown;
  std::thread limited([&] {
    try {
      if (!confine_this_thread(all))
        throw Fault({Exit::kiln,
                     {},
                     "this program cannot limit its own writing to the kiln",
                     "Landlock refuses to",
                     "look at the limits of this system for the number of rules",
                     {}});
      work();
    } catch (...) {
      thrown = std::current_exception();
    }
  });
  // Signals are for the thread that does something.
  sigset_t mine;
  sigset_t before;
  sigemptyset(&mine);
  for (const int number : {SIGINT, SIGTERM, SIGHUP, SIGWINCH}) sigaddset(&mine, number);
  ::pthread_sigmask(SIG_BLOCK, &mine, &before);
  limited.join();
  ::pthread_sigmask(SIG_SETMASK, &before, nullptr);
  files::put_scratch_folders_in({});
  limit.reset();
  if (thrown) std::rethrow_exception(thrown);
}

void without_limit(const std::function<void()>& work) {
  if (limit == nullptr || is_unlimited) {
    work();
    return;
  }
  Unlimited::instance().call([&] {
    is_unlimited = true;
    work();
  });
}

bool may_be_written(const std::string& path) {
  if (limit == nullptr || is_unlimited) return true;
  const auto has = [&](const std::string& folder) { return files::is_below(path, folder); };
  return has(limit->temporary->path().string()) || std::any_of(limit->folders.begin(), limit->folders.end(), has);
}

std::string way_out(const std::string& path) {
  if (limit == nullptr || !may_be_written(path)) return {};
  std::error_code error;
  std::filesystem::path so_far;
  for (const auto& part : std::filesystem::path(path)) {
    so_far /= part;
    if (!std::filesystem::is_symlink(so_far, error)) continue;
    const auto to = std::filesystem::weakly_canonical(so_far, error);
    if (!error && !may_be_written(to.string())) return so_far.string() + " leads to " + to.string();
  }
  return {};
}

bool put_in_place_of(const std::string& tree, const std::string& copy, const std::string& kiln) {
  const auto user = std::to_string(::geteuid());
  const auto group = std::to_string(::getegid());
  const bool inside = files::is_below(kiln, tree);
  if (::unshare(CLONE_NEWNS) != 0) {
    // Users may have name spaces of their own, in which they are who they are.
    if (::unshare(CLONE_NEWNS | CLONE_NEWUSER) != 0) return false;
    const auto say = [](const char* file, const std::string& text) {
      const int fd = ::open(file, O_WRONLY | O_CLOEXEC);
      const bool good = fd >= 0 && ::write(fd, text.data(), text.size()) == static_cast<ssize_t>(text.size());
      if (fd >= 0) ::close(fd);
      return good;
    };
    say("/proc/self/setgroups", "deny");
    if (!say("/proc/self/uid_map", user + " " + user + " 1") || !say("/proc/self/gid_map", group + " " + group + " 1"))
      return false;
  }
  // Of a folder that was opened before, the mount would be one of another name space, which cannot be bound.
  const int kept = inside ? ::open(kiln.c_str(), O_PATH | O_CLOEXEC) : -1;
  std::error_code error;
  if (inside) std::filesystem::create_directories(copy + "/" + files::below(kiln, tree), error);
  bool good = ::mount("none", "/", nullptr, MS_REC | MS_PRIVATE, nullptr) == 0 &&
              ::mount(copy.c_str(), tree.c_str(), nullptr, MS_BIND, nullptr) == 0;
  if (inside && good)
    good = kept >= 0 &&
           ::mount(("/proc/self/fd/" + std::to_string(kept)).c_str(), kiln.c_str(), nullptr, MS_BIND, nullptr) == 0;
  if (kept >= 0) ::close(kept);
  // Where this process is, is still the folder that was hidden.
  const std::string here = std::filesystem::current_path(error).string();
  return good && !error && ::chdir(here.c_str()) == 0;
}

std::vector<std::string> temporary_folders_without(const std::string& tree) {
  std::vector<std::string> out;
  std::error_code error;
  for (const auto& folder :
       {std::filesystem::temp_directory_path(error).string(), std::string("/tmp"), std::string("/var/tmp")}) {
    const std::string real = std::filesystem::weakly_canonical(folder, error).string();
    const bool holds_tree = files::is_below(tree, error ? folder : real);
    if (!holds_tree && std::find(out.begin(), out.end(), folder) == out.end()) out.push_back(folder);
  }
  return out;
}

Confinement confinement_of(const std::string& tree, const std::string& kiln) {
  Confinement out;
  const observe::Apart own;
  // Of the kiln only what commands have to fill. Records, results and what else is kept lie where none of them writes.
  for (const char* part : {"work", "tree", "finished", "temporary"}) out.writable.push_back(kiln + "/" + part);
  if (files::is_folder(kiln + "/make")) {
    // For programs of ours that run among them: makes that recipes start, and what watches recipes and scripts.
    for (const char* part : {"make", "calls", "dependencies", "watched", "journal"})
      out.writable.push_back(kiln + "/" + part);
  }
  // A copy in the kiln is no tree that somebody needs.
  const auto temporary = temporary_folders_without(files::is_below(tree, kiln) ? std::string() : tree);
  out.writable.insert(out.writable.end(), temporary.begin(), temporary.end());
  std::error_code error;
  if (std::find(temporary.begin(), temporary.end(), std::filesystem::temp_directory_path(error).string()) ==
      temporary.end())
    out.environment = {{"TMPDIR", kiln + "/temporary"}};
  return out;
}

std::string refused_path(std::string_view output) {
  for (const auto& line : text::split(output, '\n')) {
    if (text::lower(line).find("read-only file system") == std::string::npos) continue;
    for (auto word : text::words(line)) {
      while (!word.empty() && std::string_view("'\"`:,;()[]").find(word.front()) != std::string_view::npos)
        word.erase(0, 1);
      while (!word.empty() && std::string_view("'\"`:,;()[]").find(word.back()) != std::string_view::npos)
        word.pop_back();
      for (const std::string_view quote : {"‘", "’"}) {
        if (word.starts_with(quote)) word.erase(0, quote.size());
        if (word.ends_with(quote)) word = word.substr(0, word.size() - quote.size());
      }
      const bool of_the_shell = word.ends_with("/sh") || word.ends_with("/bash");
      if (word.find('/') != std::string::npos && !of_the_shell) return word;
    }
  }
  return {};
}

std::string refused_address(std::string_view output, std::string_view command) {
  static constexpr std::string_view tells[] = {"network is unreachable",
                                               "temporary failure in name resolution",
                                               "could not resolve",
                                               "couldn't resolve",
                                               "unable to resolve",
                                               "name or service not known",
                                               "no address associated with hostname",
                                               "nodename nor servname provided",
                                               "connection refused",
                                               "failed to connect to ",
                                               "couldn't connect to server",
                                               "no route to host"};
  static const RE2 address(R"(((?:https?|ftp|git|ssh)://[^\s'"<>]+|\b\d{1,3}(?:\.\d{1,3}){3}(?::\d+)?\b))");
  static const RE2 name(
      R"((?i)(?:host(?:name)?|address|connect to|resolve|proxy):? ['‘"]?([A-Za-z0-9][A-Za-z0-9.-]*\.[A-Za-z]{2,}(?::\d+)?|localhost(?::\d+)?))");
  for (const auto& line : text::split(output, '\n')) {
    const std::string lower = text::lower(line);
    if (std::none_of(std::begin(tells), std::end(tells),
                     [&](auto tell) { return lower.find(tell) != std::string::npos; }))
      continue;
    std::string found;
    if (RE2::PartialMatch(line, address, &found) || RE2::PartialMatch(line, name, &found)) return found;
    if (RE2::PartialMatch(command, address, &found)) return found;
    return text::clip(text::printable_line(text::trim(line)), 80);
  }
  return {};
}

bool tells_of_refused_writing(std::string_view output, std::string_view tree) {
  static constexpr std::string_view refusals[] = {
      "permission denied", "permissionerror",   "read-only file system", "eacces",
      "access denied",     "cross-device link", "not writable",          "not writeable"};
  static constexpr std::string_view failing[] = {"cannot", "can't", "could not", "couldn't", "unable", "fail"};
  static constexpr std::string_view doing[] = {"open", "creat", "writ", "mov", "renam", "remov", "mkdir"};
  const auto has = [](const std::string& line, const auto& words) {
    return std::any_of(std::begin(words), std::end(words),
                       [&](std::string_view word) { return line.find(word) != std::string::npos; });
  };
  for (const auto& whole : text::split(output, '\n')) {
    if (whole.find(outside_output_folder) != std::string::npos) return true;
    const std::string line = text::lower(whole);
    if (has(line, refusals)) return true;
    // "Unable to create a temporary file; perhaps there are no permissions to do so."
    if (has(line, failing) && has(line, doing) &&
        (line.find("permission") != std::string::npos || line.find("temporary") != std::string::npos))
      return true;
    if (!tree.empty() && whole.find(tree) != std::string::npos && has(line, failing) && has(line, doing)) return true;
  }
  return false;
}

}  // namespace coctilis
