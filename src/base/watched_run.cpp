#include "base/watched_run.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/prctl.h>
#include <sys/ptrace.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <set>
#include <thread>
#include <unordered_map>

#include "base/confine.h"
#include "base/process.h"
#include "base/sandbox.h"

extern char** environ;  // NOLINT: POSIX declares it nowhere

namespace coctilis {

namespace {

std::vector<std::string> words_of(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  const std::string all((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
  std::vector<std::string> out;
  for (std::size_t at = 0; at < all.size();) {
    const auto end = std::min(all.find('\0', at), all.size());
    out.push_back(all.substr(at, end - at));
    at = end + 1;
  }
  return out;
}

class Watcher {
 public:
  Watcher(pid_t first, const WatchedRunObserver& observer, FileWatch* files)
      : first_(first), observer_(observer), files_(files) {
    for (char** at = environ; *at != nullptr; ++at) own_.insert(*at);
  }

  void run(WatchedRun& out) {
    constexpr long options =
        PTRACE_O_TRACEEXEC | PTRACE_O_TRACEFORK | PTRACE_O_TRACEVFORK | PTRACE_O_TRACECLONE | PTRACE_O_EXITKILL;
    bool ready = false;
    for (;;) {
      int status = 0;
      const pid_t pid = ::waitpid(-1, &status, __WALL);
      if (pid < 0 && errno == EINTR) {
        if (interrupted_by != 0) ::kill(-first_, SIGTERM);
        continue;
      }
      if (pid < 0) break;
      if (WIFEXITED(status) || WIFSIGNALED(status)) {
        const int code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
        if (const auto it = current_.find(pid); it != current_.end() && it->second >= 0) {
          auto& program = out.programs[static_cast<std::size_t>(it->second)];
          if (files_ != nullptr) program.files.add(files_->take(pid));
          // A process of several programs, one after the other, ends as the last.
          if (owner_[pid] == it->second) {
            program.exit = code;
            program.seconds = now() - began_[static_cast<std::size_t>(it->second)];
            if (observer_.ended) observer_.ended(out, static_cast<std::size_t>(it->second));
          }
          current_.erase(it);
        }
        if (pid == first_) {
          out.exit = code;
          ::kill(-first_, SIGKILL);
          break;
        }
        continue;
      }
      if (!WIFSTOPPED(status)) continue;
      const int event = status >> 16;
      int deliver = 0;
      if (pid == first_ && !ready) {
        ::ptrace(PTRACE_SETOPTIONS, pid, nullptr, options);
        ready = true;
        if (event == 0 && WSTOPSIG(status) == SIGTRAP) started(pid, out);
      } else if (event == PTRACE_EVENT_EXEC) {
        started(pid, out);
      } else if (event == PTRACE_EVENT_FORK || event == PTRACE_EVENT_VFORK || event == PTRACE_EVENT_CLONE) {
        unsigned long child = 0;
        ::ptrace(PTRACE_GETEVENTMSG, pid, nullptr, &child);
        const auto it = current_.find(pid);
        // Until it starts a program of its own, a child is part of its parent's.
        current_.try_emplace(static_cast<pid_t>(child), it == current_.end() ? -1 : it->second);
        if (waiting_.erase(static_cast<pid_t>(child)) > 0) ::ptrace(PTRACE_CONT, static_cast<pid_t>(child), nullptr, 0);
      } else if (WSTOPSIG(status) == SIGSTOP && !seen_.contains(pid)) {
        seen_.insert(pid);  // a new child begins stopped
        if (!current_.contains(pid)) {
          // Whose child it is has not been told yet.
          waiting_.insert(pid);
          continue;
        }
      } else if (WSTOPSIG(status) != SIGTRAP) {
        deliver = WSTOPSIG(status);
      }
      ::ptrace(PTRACE_CONT, pid, nullptr, deliver);
    }
    // What is left behind goes.
    int status = 0;
    while (::waitpid(-1, &status, __WALL | WNOHANG) > 0) {
    }
  }

 private:
  void started(pid_t pid, WatchedRun& out) {
    const std::string base = "/proc/" + std::to_string(pid);
    StartedProgram program;
    program.argv = words_of(base + "/cmdline");
    char folder[4096];
    if (const ssize_t n = ::readlink((base + "/cwd").c_str(), folder, sizeof folder); n > 0)
      program.folder.assign(folder, static_cast<std::size_t>(n));
    for (const auto& entry : words_of(base + "/environ")) {
      if (own_.contains(entry)) continue;
      if (const auto equals = entry.find('='); equals != std::string::npos && equals > 0)
        program.environment[entry.substr(0, equals)] = entry.substr(equals + 1);
    }
    const auto it = current_.find(pid);
    program.parent = it == current_.end() ? -1 : it->second;
    // What its process asked for before is part of starting it: a shell opens files for it, say.
    if (files_ != nullptr) {
      program.files = files_->take(pid);
      std::error_code error;
      program.files.programs.insert(std::filesystem::read_symlink(base + "/exe", error).string());
    }
    const int index = static_cast<int>(out.programs.size());
    current_[pid] = index;
    owner_[pid] = index;
    began_.push_back(now());
    out.programs.push_back(std::move(program));
    if (observer_.started) observer_.started(out, static_cast<std::size_t>(index));
  }

  pid_t first_;
  const WatchedRunObserver& observer_;
  FileWatch* files_;  // null: files are not watched
  std::set<std::string> own_;
  std::unordered_map<pid_t, int> current_;  // the program that a process belongs to
  std::unordered_map<pid_t, int> owner_;    // the program that a process started last
  std::set<pid_t> seen_;
  std::set<pid_t> waiting_;
  std::vector<double> began_;
};

}  // namespace

void run_confined(const std::vector<std::string>& argv, const std::vector<std::string>& writable) {
  const std::string program = argv.empty() ? "" : find_program(argv.front());
  if (program.empty()) return;
  if (!sandbox::inside() && sandbox::why_not().empty()) {
    std::error_code error;
    // What tmpfile(3) makes lies in one folder, whatever the environment says.
    sandbox::Program boxed{program, std::filesystem::current_path(error).string(), &argv, &writable};
    boxed.shares_temporary = true;
    sandbox::become(boxed);
    return;
  }
  if (!confine_this_thread(writable)) return;
  std::vector<char*> words;
  for (const auto& word : argv) words.push_back(const_cast<char*>(word.c_str()));  // NOLINT: the C interface
  words.push_back(nullptr);
  ::execv(program.c_str(), words.data());
}

namespace {
// Starts the program and watches it to its end, on the thread that calls.
void start_and_watch(const std::string& program, std::vector<char*>& words, const std::string& folder,
                     const std::vector<std::string>& writable, const WatchedRunObserver& observer, FileWatch* files,
                     WatchedRun& out) {
  int report[2];
  if (::pipe2(report, O_CLOEXEC) != 0) {
    out.failure = std::strerror(errno);
    return;
  }
  // What runs in a sandbox is confined already, to folders that this process cannot tell any more.
  const bool inside = sandbox::inside();
  const pid_t pid = ::fork();
  if (pid == 0) {
    // Should this program be killed just now, nothing of it may be held on to, least of all the other end of its watch.
    if (report[1] > 3) ::close_range(3, static_cast<unsigned>(report[1]) - 1, 0);
    ::close_range(static_cast<unsigned>(report[1]) + 1, ~0U, 0);
    ::setpgid(0, 0);
    char confined = '0';
    if (::chdir(folder.c_str()) == 0) {
      if (inside || confine_this_thread(writable)) confined = '1';
      (void)!::write(report[1], &confined, 1);
      if (::ptrace(PTRACE_TRACEME, 0, nullptr, nullptr) == 0) ::execv(program.c_str(), words.data());
    }
    ::_exit(127);
  }
  ::close(report[1]);
  if (pid < 0) {
    out.failure = std::strerror(errno);
    ::close(report[0]);
    return;
  }
  ::setpgid(pid, pid);
  char confined = '0';
  (void)!::read(report[0], &confined, 1);
  ::close(report[0]);
  out.confined = confined == '1';
  Watcher(pid, observer, files).run(out);
}
}  // namespace

WatchedRun run_watched(const std::vector<std::string>& argv, const std::string& folder,
                       const std::vector<std::string>& writable, const WatchedRunObserver& observer) {
  WatchedRun out;
  const std::string program = argv.empty() ? "" : find_program(argv.front());
  if (program.empty()) {
    out.failure = "there is no program '" + (argv.empty() ? std::string{} : argv.front()) + "'";
    return out;
  }
  std::vector<char*> words;
  for (const auto& word : argv) words.push_back(const_cast<char*>(word.c_str()));  // NOLINT: the C interface
  words.push_back(nullptr);
  // Whoever traces a process has to be the thread that started it, and what is watched begins with that thread.
  std::thread([&] {
    FileWatch files;
    out.files_seen = files.begin(WatchFor::all, true);
    start_and_watch(program, words, folder, writable, observer, out.files_seen ? &files : nullptr, out);
  }).join();
  if (out.programs.empty() && out.failure.empty())
    out.failure = "'" + argv.front() + "' could not be started in '" + folder + "'";
  return out;
}

}  // namespace coctilis
