#include "base/process.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <linux/capability.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstring>
#include <thread>

#include "base/confine.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "sandbox/report.h"

extern char** environ;

namespace coctilis {

volatile int interrupted_by = 0;

double now() {
  timespec t{};
  ::clock_gettime(CLOCK_MONOTONIC, &t);
  return static_cast<double>(t.tv_sec) + static_cast<double>(t.tv_nsec) * 1e-9;
}

std::string find_program(const std::string& name, const std::optional<std::string>& path) {
  if (name.empty()) return {};
  if (name.find('/') != std::string::npos) return files::is_program(name) ? name : std::string{};
  const char* environment = std::getenv("PATH");
  const std::string folders = path ? *path : (environment != nullptr ? environment : "/usr/local/bin:/usr/bin:/bin");
  for (const auto& folder : text::split(folders, ':')) {
    const std::string candidate = (folder.empty() ? "." : folder) + "/" + name;
    if (files::is_program(candidate)) return candidate;
  }
  return {};
}

std::string Ended::text() const {
  switch (how) {
    case How::exited: return fmt::format("exit code {}", code);
    case How::signalled: return fmt::format("ended by signal {} ({})", code, ::strsignal(code));
    case How::not_started: return fmt::format("could not be started: {}", std::strerror(code));
    case How::timed_out: return fmt::format("stopped at its time limit after {}", text::duration(seconds));
    case How::interrupted: return "interrupted";
  }
  return {};
}

Process::Process(Process&& other) noexcept { *this = std::move(other); }

Process& Process::operator=(Process&& other) noexcept {
  if (this != &other) {
    pid_ = std::exchange(other.pid_, 0);
    out_ = std::exchange(other.out_, -1);
    err_ = std::exchange(other.err_, -1);
    report_ = std::exchange(other.report_, -1);
    started_ = other.started_;
    exited_ = other.exited_;
    reaped_ = other.reaped_;
    limit_ = other.limit_;
    dropped_of_output_ = other.dropped_of_output_;
    dropped_of_errors_ = other.dropped_of_errors_;
    stopped_ = other.stopped_;
    watch_ = std::move(other.watch_);
    ended_ = std::move(other.ended_);
  }
  return *this;
}

Process::~Process() {
  if (pid_ > 0) {
    signal(SIGKILL);
    if (!reaped_) ::waitpid(pid_, nullptr, 0);
  }
  close_all();
}

void Process::close_all() {
  for (int* fd : {&out_, &err_, &report_}) {
    if (*fd >= 0) ::close(*fd);
    *fd = -1;
  }
}

double Process::age() const { return now() - started_; }

std::map<std::string, std::string> own_environment() {
  std::map<std::string, std::string> out;
  for (char** at = environ; *at != nullptr; ++at) {
    const std::string_view entry = *at;
    const auto equals = entry.find('=');
    if (equals != std::string_view::npos && equals > 0) out.emplace(entry.substr(0, equals), entry.substr(equals + 1));
  }
  return out;
}

namespace {
// The environment of this process with the command's changes.
std::vector<std::string> environment_of(const Command& command) {
  std::vector<std::string> out;
  for (char** e = environ; *e != nullptr; ++e) {
    const std::string_view entry(*e);
    if (!command.environment.contains(std::string(entry.substr(0, entry.find('='))))) out.emplace_back(entry);
  }
  for (const auto& [name, value] : command.environment) {
    if (value) out.push_back(name + "=" + *value);
  }
  return out;
}
}  // namespace

namespace {
std::atomic<bool> forbidden = false;
}  // namespace

void forbid_processes() { forbidden = true; }

std::uint64_t resident_bytes() {
  const int fd = ::open("/proc/self/statm", O_RDONLY | O_CLOEXEC);
  if (fd < 0) return 0;
  char buffer[128] = {};
  const auto length = ::read(fd, buffer, sizeof buffer - 1);
  ::close(fd);
  unsigned long long whole = 0;
  unsigned long long resident = 0;
  if (length <= 0 || std::sscanf(buffer, "%llu %llu", &whole, &resident) != 2) return 0;
  return resident * static_cast<unsigned long long>(::sysconf(_SC_PAGESIZE));
}

Process Process::start(const Command& command) {
  observe::process(command);
  // What runs in one already has nothing to gain by another.
  const bool in_sandbox = command.is_sandboxed() && !sandbox::inside() && sandbox::why_not().empty();
  const bool gives_up_rights = command.modes_count && ::geteuid() == 0 && !in_sandbox;
  const bool limits_writing = command.is_sandboxed() && !in_sandbox && !sandbox::inside();
  Process out;
  if (!gives_up_rights && !limits_writing && command.watch == WatchFor::nothing) {
    without_limit([&] { out = start_plain(command, in_sandbox); });
    return out;
  }
  // What a thread gives up its children never get (Linux, capabilities(7), "bounding set"; landlock(7)), and it ends
  // with it.
  std::unique_ptr<FileWatch> watch;
  const auto apart = [&] {
    if (command.watch != WatchFor::nothing) watch = std::make_unique<FileWatch>();
    std::thread([&] {
      if (gives_up_rights) {
        ::prctl(PR_CAPBSET_DROP, CAP_DAC_OVERRIDE, 0, 0, 0);
        ::prctl(PR_CAPBSET_DROP, CAP_DAC_READ_SEARCH, 0, 0, 0);
      }
      if (limits_writing) confine_this_thread(command.writable);
      if (watch && !watch->begin(command.watch)) watch.reset();
      out = start_plain(command, in_sandbox);
    }).join();
  };
  without_limit(apart);
  out.watch_ = std::move(watch);
  return out;
}

Process Process::start_plain(const Command& command, bool in_sandbox) {
  // Where a program is looked for is part of what `start` has told.
  const observe::Apart looked;
  Process process;
  process.started_ = now();
  process.limit_ = command.output_limit;
  int out[2] = {-1, -1};
  int err[2] = {-1, -1};
  int input = -1;
  auto fail = [&](int error) {
    for (const int fd : {out[0], out[1], err[0], err[1], input}) {
      if (fd >= 0) ::close(fd);
    }
    process.ended_.how = Ended::How::not_started;
    process.ended_.code = error;
    return std::move(process);
  };
  if (forbidden) return fail(EPERM);
  if (command.argv.empty()) return fail(EINVAL);
  if (!command.input.empty()) input = ::open(command.input.c_str(), O_RDONLY | O_CLOEXEC);
  if (!command.input.empty() && input < 0) return fail(errno);
  std::vector<std::string> environment = environment_of(command);
  std::optional<std::string> path;
  if (const auto it = command.environment.find("PATH"); it != command.environment.end()) path = it->second;
  std::string program = find_program(command.argv[0], path);
  // A relative path counts from the folder the process starts in.
  if (program.empty() && command.argv[0].find('/') != std::string::npos) program = command.argv[0];
  if (program.empty()) return fail(ENOENT);
  const bool on_terminal = !command.terminal.empty();
  if (!on_terminal && ::pipe2(out, O_CLOEXEC) != 0) return fail(errno);
  if (!on_terminal && !command.merge_errors && ::pipe2(err, O_CLOEXEC) != 0) return fail(errno);

  sandbox::Start boxed;
  if (in_sandbox) {
    boxed = sandbox::start_of({program, command.folder, &command.argv, &command.writable, command.modes_count});
    if (boxed.report_read < 0) return fail(errno);
  }
  // Where there can be no sandbox the same holds: only what is writable is.
  const bool limits_writing = command.is_sandboxed() && !in_sandbox && !sandbox::inside();
  const std::string temporary = in_sandbox       ? boxed.temporary
                                : limits_writing ? sandbox::place_for_temporary_files(command.writable)
                                                 : std::string();
  if (!temporary.empty() && !command.environment.contains("TMPDIR")) {
    std::erase_if(environment, [](const std::string& entry) { return entry.starts_with("TMPDIR="); });
    environment.push_back("TMPDIR=" + temporary);
  }
  std::vector<char*> argv;
  for (const auto& word : in_sandbox ? boxed.argv : command.argv)
    argv.push_back(const_cast<char*>(word.c_str()));  // NOLINT: the C interface
  argv.push_back(nullptr);
  std::vector<char*> envp;
  for (auto& entry : environment) envp.push_back(entry.data());
  envp.push_back(nullptr);
  if (in_sandbox) program = boxed.path;

  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  // Until it is the program, the child has all that is open here. Should this program be killed in that moment, it must
  // neither wait for an answer to a call that is watched (seccomp_unotify(2)) and of which it has the other end itself,
  // nor keep locks: it opens nothing, and lets go of everything before it does anything else.
  static const int nothing = ::open("/dev/null", O_RDONLY | O_CLOEXEC);
  if (on_terminal) {
    // The leader of a session controls the first terminal that it opens.
    posix_spawn_file_actions_addopen(&actions, 0, command.terminal.c_str(), O_RDWR, 0);
    for (const int fd : {1, 2}) posix_spawn_file_actions_adddup2(&actions, 0, fd);
  } else {
    posix_spawn_file_actions_adddup2(&actions, input >= 0 ? input : nothing, 0);
    posix_spawn_file_actions_adddup2(&actions, out[1], 1);
    posix_spawn_file_actions_adddup2(&actions, command.merge_errors ? out[1] : err[1], 2);
  }
  int next = 3;
  for (const int fd : boxed.descriptors) posix_spawn_file_actions_adddup2(&actions, fd, next++);
  posix_spawn_file_actions_addclosefrom_np(&actions, next);
  if (!command.folder.empty()) posix_spawn_file_actions_addchdir_np(&actions, command.folder.c_str());
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  sigset_t none;
  sigemptyset(&none);
  sigset_t defaults;
  sigemptyset(&defaults);
  for (const int number : {SIGINT, SIGTERM, SIGPIPE, SIGHUP}) sigaddset(&defaults, number);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setsigdefault(&attributes, &defaults);
  posix_spawnattr_setpgroup(&attributes, 0);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK | POSIX_SPAWN_SETSIGDEF |
                                            (in_sandbox || on_terminal ? POSIX_SPAWN_SETSID : POSIX_SPAWN_SETPGROUP));
  pid_t pid = 0;
  int error = ::posix_spawn(&pid, program.c_str(), &actions, &attributes, argv.data(), envp.data());
  if (error == ENOEXEC) {
    // A file that does not say what reads it is a script of the shell's (POSIX.1-2024, exec, "execvp").
    std::string shell = "/bin/sh";
    argv.front() = program.data();
    argv.insert(argv.begin(), shell.data());
    error = ::posix_spawn(&pid, shell.c_str(), &actions, &attributes, argv.data(), envp.data());
  }
  posix_spawn_file_actions_destroy(&actions);
  posix_spawnattr_destroy(&attributes);
  if (input >= 0) ::close(std::exchange(input, -1));
  if (in_sandbox) ::close(boxed.descriptors.back());
  if (error != 0) {
    if (in_sandbox) ::close(boxed.report_read);
    return fail(error);
  }
  process.report_ = boxed.report_read;
  for (const int fd : {out[1], err[1]}) {
    if (fd >= 0) ::close(fd);
  }
  process.pid_ = pid;
  process.out_ = out[0];
  process.err_ = err[0];
  for (const int fd : {out[0], err[0]}) {
    if (fd >= 0) ::fcntl(fd, F_SETFL, O_NONBLOCK);
  }
  return process;
}

void Process::leave_out_the_middle(std::string& of, std::size_t& dropped) const {
  if (of.size() <= limit_) return;
  const std::size_t more = of.size() - limit_;
  of.erase(limit_ / 2, more);
  dropped += more;
}

void Process::say_what_is_missing(std::string& in, std::size_t dropped) {
  leave_out_the_middle(in, dropped);
  if (dropped == 0) return;
  ended_.truncated = true;
  in.insert(std::min(limit_ / 2, in.size()), fmt::format("\n[{} bytes are left out here]\n", dropped));
}

void Process::drain(int& fd, std::string& into, std::size_t& dropped) {
  char buffer[1U << 16U];
  while (fd >= 0) {
    const ssize_t n = ::read(fd, buffer, sizeof buffer);
    if (n > 0) {
      into.append(buffer, static_cast<std::size_t>(n));
      // What is too much is taken out now and then only: each time costs as much as what is behind it.
      if (into.size() > limit_ + limit_ / 2 + sizeof buffer) leave_out_the_middle(into, dropped);
    } else if (n < 0 && errno == EINTR) {
      continue;
    } else if (n < 0 && (errno == EAGAIN || errno == EWOULDBLOCK)) {
      return;
    } else {
      ::close(fd);
      fd = -1;
    }
  }
}

void Process::signal(int number) const {
  if (pid_ > 0) ::kill(-pid_, number);
}

void Process::stop(Ended::How why) {
  if (!stopped_) stopped_ = why;
  signal(SIGKILL);
}

// What became of the program itself; when nothing is told, what became of the one that started it stands for it.
void Process::take_report() {
  sandbox::Report report;
  const bool told = ::read(report_, &report, sizeof report) == static_cast<ssize_t>(sizeof report);
  ::close(std::exchange(report_, -1));
  if (!told) return;
  switch (report.what) {
    case sandbox::Report::What::nothing: break;
    case sandbox::Report::What::ended:
      ended_.how = WIFSIGNALED(report.value) ? Ended::How::signalled : Ended::How::exited;
      ended_.code = WIFSIGNALED(report.value) ? WTERMSIG(report.value) : WEXITSTATUS(report.value);
      if (report.where[0] != 0) ended_.output += std::string("[") + report.where + ", and was ended]\n";
      break;
    case sandbox::Report::What::not_started:
    case sandbox::Report::What::no_sandbox:
      ended_.how = Ended::How::not_started;
      ended_.code = report.value;
      // Not a word of the program, but whoever shows what it said shows why it said nothing.
      if (report.what == sandbox::Report::What::no_sandbox)
        ended_.output += std::string("its sandbox cannot be set up: ") + report.where + "\n";
      break;
  }
}

bool Process::poll() {
  if (pid_ <= 0) return true;
  drain(out_, ended_.output, dropped_of_output_);
  drain(err_, ended_.errors, dropped_of_errors_);
  if (!reaped_) {
    int status = 0;
    rusage usage{};
    const pid_t got = ::wait4(pid_, &status, WNOHANG, &usage);
    if (got == 0 || (got < 0 && errno == EINTR)) return false;
    reaped_ = true;
    exited_ = now();
    if (got > 0) {
      ended_.how = WIFSIGNALED(status) ? Ended::How::signalled : Ended::How::exited;
      ended_.code = WIFSIGNALED(status) ? WTERMSIG(status) : WEXITSTATUS(status);
      auto seconds = [](const timeval& t) {
        return static_cast<double>(t.tv_sec) + static_cast<double>(t.tv_usec) * 1e-6;
      };
      ended_.cpu_seconds = seconds(usage.ru_utime) + seconds(usage.ru_stime);
      ended_.peak_kilobytes = usage.ru_maxrss;
    }
    ended_.seconds = exited_ - started_;
    if (report_ >= 0) take_report();
    if (stopped_) ended_.how = *stopped_;
    drain(out_, ended_.output, dropped_of_output_);
    drain(err_, ended_.errors, dropped_of_errors_);
  }
  // A child left behind may hold the pipe open: it gets a moment, then the whole group goes.
  if ((out_ >= 0 || err_ >= 0) && !stopped_ && now() - exited_ < 0.2) return false;
  signal(SIGKILL);
  close_all();
  pid_ = 0;
  say_what_is_missing(ended_.output, dropped_of_output_);
  say_what_is_missing(ended_.errors, dropped_of_errors_);
  if (watch_) {
    ended_.watched = true;
    ended_.files = watch_->end();
    watch_.reset();
  }
  return true;
}

namespace {
void wait_for_output(const std::vector<const Process*>& processes, int milliseconds) {
  std::vector<pollfd> fds;
  for (const Process* process : processes) {
    for (const int fd : {process->output_fd(), process->error_fd()}) {
      if (fd >= 0) fds.push_back({fd, POLLIN, 0});
    }
  }
  ::poll(fds.data(), fds.size(), fds.empty() ? std::min(milliseconds, 5) : milliseconds);
}
}  // namespace

Ended run(const Command& command) { return std::move(run_all({command}, 1)[0]); }

Ended run_on_terminal(const Command& command) {
  Ended ended;
  const std::string program = command.argv.empty() ? "" : find_program(command.argv[0]);
  if (program.empty()) {
    ended.code = ENOENT;
    return ended;
  }
  std::vector<std::string> environment = environment_of(command);
  std::vector<char*> argv;
  for (const auto& word : command.argv) argv.push_back(const_cast<char*>(word.c_str()));  // NOLINT: the C interface
  argv.push_back(nullptr);
  std::vector<char*> envp;
  for (auto& entry : environment) envp.push_back(entry.data());
  envp.push_back(nullptr);
  pid_t pid = 0;
  int error = 0;
  without_limit([&] { error = ::posix_spawn(&pid, program.c_str(), nullptr, nullptr, argv.data(), envp.data()); });
  if (error != 0) {
    ended.code = error;
    return ended;
  }
  int status = 0;
  while (::waitpid(pid, &status, 0) < 0 && errno == EINTR) {
  }
  ended.how = WIFSIGNALED(status) ? Ended::How::signalled : Ended::How::exited;
  ended.code = WIFSIGNALED(status) ? WTERMSIG(status) : WEXITSTATUS(status);
  return ended;
}

std::vector<Ended> run_all(const std::vector<Command>& commands, unsigned jobs) {
  std::vector<Ended> results(commands.size());
  std::vector<std::pair<std::size_t, Process>> active;
  std::size_t next = 0;
  while (next < commands.size() || !active.empty()) {
    while (next < commands.size() && active.size() < std::max(1U, jobs) && interrupted_by == 0) {
      active.emplace_back(next, Process::start(commands[next]));
      ++next;
    }
    if (interrupted_by != 0) {
      for (; next < commands.size(); ++next) results[next].how = Ended::How::interrupted;
    }
    std::vector<const Process*> waiting;
    for (auto& [index, process] : active) {
      const double limit = commands[index].limit_seconds;
      if (process.running() && limit > 0 && process.age() > limit) process.stop(Ended::How::timed_out);
      if (process.running() && interrupted_by != 0) process.stop(Ended::How::interrupted);
    }
    std::erase_if(active, [&](auto& entry) {
      if (!entry.second.poll()) return false;
      results[entry.first] = entry.second.take();
      return true;
    });
    for (const auto& entry : active) waiting.push_back(&entry.second);
    if (!waiting.empty()) wait_for_output(waiting, 20);
  }
  return results;
}

}  // namespace coctilis
