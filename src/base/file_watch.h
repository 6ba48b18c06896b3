// Watches which files a process, and all that it starts, asks the kernel for: by name, while it runs, by a filter of
// system calls that asks this program first (seccomp_unotify(2), Linux 5.5). Needs no rights. Nothing is kept from
// happening, and what a process hides from it on purpose it does not see: it is there to know what results were made
// from, not to guard anything.
#pragma once

#include <sys/types.h>

#include <memory>
#include <string>
#include <string_view>
#include <unordered_set>

namespace coctilis {

enum class WatchFor {
  nothing,
  opening,  // files that are opened, written, moved and removed, programs that are started
  finding,  // names of which is asked whether they are there as well
  all,      // and where links lead, which linkers ask of every folder of every name: a third of all questions
};

// Absolute names without "." and ".."; links are not followed. What became of each call is not known: a name may stand
// for something that is not there.
struct WatchedFiles {
  std::unordered_set<std::string> read;      // opened for reading, or started
  std::unordered_set<std::string> asked;     // asked about: whether it is there, what it is, where it leads
  std::unordered_set<std::string> listed;    // folders opened to see what is in them
  std::unordered_set<std::string> written;   // opened for writing, made, moved to or from, removed
  std::unordered_set<std::string> programs;  // started; also among what was read

  void add(WatchedFiles&& other);
  // As lines, a letter in front of each name, and back. Names with line ends in them are left out.
  [[nodiscard]] std::string text() const;
  [[nodiscard]] static WatchedFiles from(std::string_view text);
};

// True for what tells of processes and devices: it is another at every look, and nothing is made from it.
[[nodiscard]] bool tells_of_running_system(const std::string& path);

// False for what belongs to the running system and not to what is made: devices, processes, and what the loader and the
// C library look at whenever a program starts; and for names among temporary files that stand for no file. A shared
// library of the system counts with the program that needs it.
[[nodiscard]] bool may_have_a_say(const std::string& path);

// One watch, over a process and what it starts. From the moment that `begin` is called on a thread, all that this
// thread and the processes that it starts ask for is noted, until the thread and they have ended; there is no way back,
// so it is called on a thread of its own.
class FileWatch {
 public:
  FileWatch();
  ~FileWatch();
  FileWatch(const FileWatch&) = delete;
  FileWatch& operator=(const FileWatch&) = delete;

  // Whether this kernel can watch at all.
  [[nodiscard]] static bool possible();
  // False where the kernel cannot, or where another watch covers this process already. `each`: what single processes
  // ask for is kept apart.
  [[nodiscard]] bool begin(WatchFor what, bool each = false);
  // What the process (or thread) asked for since the last time; it counts no more for `end`.
  [[nodiscard]] WatchedFiles take(pid_t process);
  // What was noted. To be called when the process has ended. Calls that come later fail with ENOSYS.
  [[nodiscard]] WatchedFiles end();

 private:
  struct Session;
  std::shared_ptr<Session> session_;
};

}  // namespace coctilis
