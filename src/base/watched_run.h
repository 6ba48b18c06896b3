// Runs a program and watches which programs it and its children start, by the kernel's tracing (ptrace), and which
// files they ask for, and keeps it from writing where it has no business (Landlock), where the kernel has these.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "base/file_watch.h"

namespace coctilis {

// A program that was started, with its end.
struct StartedProgram {
  std::vector<std::string> argv;
  std::string folder;
  std::map<std::string, std::string> environment;  // only where it differs from that of the watcher
  int exit = -1;                                   // exit status; 128+n for a signal
  int parent = -1;  // index of the program whose process started it; -1: the script itself, or what it started
  double seconds = 0;
  WatchedFiles files;  // what it and those of its processes asked for that started no program of their own
};

struct WatchedRun {
  std::vector<StartedProgram> programs;  // in the order in which they started; the first is the program itself
  int exit = -1;                         // of the program itself
  bool confined = false;                 // writing was limited
  bool files_seen = false;               // which files programs ask for was watched, too
  std::string failure;                   // why it could not be started or watched; empty: it was
};

// Runs a program in place of this one that may write below `writable` only, and to devices. Returns only when that
// cannot be: the kernel has no Landlock, or the program is not there.
void run_confined(const std::vector<std::string>& argv, const std::vector<std::string>& writable);

// Told of each program when it has started and when it has ended, by its index.
struct WatchedRunObserver {
  std::function<void(const WatchedRun&, std::size_t)> started;
  std::function<void(const WatchedRun&, std::size_t)> ended;
};

// Standard output and error stay those of this process. Writing is allowed below `writable` only (absolute folders),
// and to devices. What still runs when the program ends is killed.
[[nodiscard]] WatchedRun run_watched(const std::vector<std::string>& argv, const std::string& folder,
                                     const std::vector<std::string>& writable, const WatchedRunObserver& observer = {});

}  // namespace coctilis
