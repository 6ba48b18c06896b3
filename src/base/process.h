// Starting processes: no shell, nothing on standard input but a file that is named, own process group, output captured,
// a time limit, and nothing left running afterwards.
#pragma once

#include <sys/types.h>

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/file_watch.h"

namespace coctilis {

struct Command {
  std::vector<std::string> argv;                                  // argv[0] is looked for on PATH when it has no slash
  std::string folder;                                             // working folder; empty: that of this process
  std::map<std::string, std::optional<std::string>> environment;  // changes: a value sets, nothing unsets
  double limit_seconds = 0;                                       // 0: none
  std::string input;         // file that it reads on standard input; empty: there it is at its end
  bool merge_errors = true;  // standard error goes into `output`; else into `errors`
  // Bytes kept of each stream; of more the beginning and the end are kept, with a line between that says so.
  std::size_t output_limit = 8U << 20U;
  // Modes of files count for the process as for any user, also when this program runs as the superuser.
  bool modes_count = false;
  // It runs in the sandbox (base/sandbox.h), where it may write below `writable` only. Where the system gives no
  // sandbox, Landlock alone limits writing (base/confine.h). Naming what is writable asks for it as well.
  bool sandboxed = false;
  std::vector<std::string> writable;
  // A terminal, by its path, that is its input and output, and that it controls (POSIX.1-2024, XBD 11.1.3); nothing is
  // captured then. Empty: none.
  std::string terminal;
  WatchFor watch = WatchFor::nothing;  // which files it asks for is noted
  [[nodiscard]] bool is_sandboxed() const { return sandboxed || !writable.empty(); }
};

struct Ended {
  enum class How { exited, signalled, not_started, timed_out, interrupted };
  How how = How::not_started;
  int code = 0;  // exit status, signal number, or errno when it could not be started
  std::string output;
  std::string errors;
  bool truncated = false;
  double seconds = 0;
  double cpu_seconds = 0;  // user and system time of the process and the children it waited for
  long peak_kilobytes = 0;
  bool watched = false;  // as the command asked; false where the kernel cannot
  WatchedFiles files;    // what it asked for, when it was watched
  [[nodiscard]] bool good() const { return how == How::exited && code == 0; }
  // "exit code 3", "ended by signal 11 (Segmentation fault)", ...
  [[nodiscard]] std::string text() const;
};

// Resident memory of this program in bytes; 0 where the system does not tell (Linux: /proc/self/statm).
[[nodiscard]] std::uint64_t resident_bytes();

// From now on this program starts no other: every start fails with EPERM. For programs that feed made-up bytes to the
// library, such as fuzzers.
void forbid_processes();

// A started process whose output is being collected. Not thread-safe.
class Process {
 public:
  Process() = default;
  ~Process();  // kills the process group if it still runs
  Process(Process&& other) noexcept;
  Process& operator=(Process&& other) noexcept;
  Process(const Process&) = delete;
  Process& operator=(const Process&) = delete;

  [[nodiscard]] static Process start(const Command& command);
  [[nodiscard]] bool running() const { return pid_ > 0; }
  [[nodiscard]] pid_t pid() const { return pid_; }
  [[nodiscard]] int output_fd() const { return out_; }
  [[nodiscard]] int error_fd() const { return err_; }
  [[nodiscard]] double age() const;
  [[nodiscard]] const std::string& output_so_far() const { return ended_.output; }
  // Reads what is there without waiting. Returns true once the process has ended and its output is complete.
  bool poll();
  // Sends a signal to the whole process group.
  void signal(int number) const;
  // Kills the group and marks the reason; `poll` then reports the end.
  void stop(Ended::How why);
  [[nodiscard]] Ended take() { return std::move(ended_); }

 private:
  [[nodiscard]] static Process start_plain(const Command& command, bool in_sandbox);  // by the rights of this thread
  void take_report();
  void drain(int& fd, std::string& into, std::size_t& dropped);
  void leave_out_the_middle(std::string& of, std::size_t& dropped) const;
  void say_what_is_missing(std::string& in, std::size_t dropped);
  void close_all();
  pid_t pid_ = 0;
  int out_ = -1;
  int err_ = -1;
  int report_ = -1;  // of the sandbox
  double started_ = 0;
  double exited_ = 0;  // when the process itself was reaped while the pipe was still open
  bool reaped_ = false;
  std::size_t limit_ = 0;
  std::size_t dropped_of_output_ = 0;
  std::size_t dropped_of_errors_ = 0;
  std::optional<Ended::How> stopped_;
  std::unique_ptr<FileWatch> watch_;
  Ended ended_;
};

// Runs to the end, or to the time limit.
[[nodiscard]] Ended run(const Command& command);
// Runs to the end on this terminal: input, output and process group are those of this process, so that it may ask.
// Nothing is captured, and there is no time limit.
[[nodiscard]] Ended run_on_terminal(const Command& command);
// Runs several at once, at most `jobs`, results in order.
[[nodiscard]] std::vector<Ended> run_all(const std::vector<Command>& commands, unsigned jobs);

// The variables of this process's environment.
[[nodiscard]] std::map<std::string, std::string> own_environment();

// Seconds on a clock that only goes forward.
[[nodiscard]] double now();
// The full path of a program: `name` with a slash as it is, else the first hit on `path` (default: PATH). Empty if
// none.
[[nodiscard]] std::string find_program(const std::string& name, const std::optional<std::string>& path = std::nullopt);

// Set by the signal handler that the command line installs; the engine and `run` look at it. 0: no signal came.
extern volatile int interrupted_by;

}  // namespace coctilis
