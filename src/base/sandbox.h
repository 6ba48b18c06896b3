// The sandbox in which everything runs that a tree has a say in. Each program gets a process name space that ends with
// it, a network with nothing but a loopback, the file system read only but for what it may write to, an empty folder
// for temporary files, harmless devices, no terminal, and limits (user_namespaces(7), mount_namespaces(7),
// pid_namespaces(7), network_namespaces(7), landlock(7)). No privilege is needed. sandbox/entry.cpp is the program that
// sets it up.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace coctilis::sandbox {

// Why this system gives no sandbox; empty: it does. Found out once, by making what all programs then share: a call that
// costs some milliseconds, which nobody who starts nothing should pay.
[[nodiscard]] const std::string& why_not();

// This process runs in one itself.
[[nodiscard]] bool inside();

// What one program, with all that it has started, may take; 0: the usual.
struct Limits {
  std::uint64_t processes = 0;  // of its user (RLIMIT_NPROC)
  std::uint64_t memory = 0;     // bytes of its own
  std::uint64_t file_size = 0;  // bytes (RLIMIT_FSIZE)
  std::uint64_t seconds = 0;    // by the clock
};
// 32,768 processes, three quarters of the machine's memory, 64 GB, a day.
[[nodiscard]] Limits usual_limits();
// The limits that hold when some are told: `limits`, each by the usual one where it is 0.
[[nodiscard]] Limits in_force(const Limits& limits);
// As one word, and back; a word that is none gives the usual limits.
[[nodiscard]] std::string to_word(const Limits& limits);
[[nodiscard]] Limits limits_of_word(const std::string& word);

// What programs get that run in one, besides.
struct Allowed {
  bool network = false;              // that of the system, in place of a loopback of their own
  std::vector<std::string> devices;  // below /dev, absolute: devices, and folders of them
  Limits limits;
};
// From now on programs get that. To be said before the first is started: by whoever has asked the user.
void allow(const Allowed& allowed);
[[nodiscard]] const Allowed& allowed();

struct Program {
  std::string path;                          // of the program
  std::string folder;                        // absolute, where it starts; empty: where this process is
  const std::vector<std::string>* argv;      // never null
  const std::vector<std::string>* writable;  // absolute: folders and files that may be written to; never null
  bool modes_count = false;                  // modes of files count for the superuser, too
  bool shares_temporary = false;  // folders for temporary files that it needs to see are the system's own, writable
};

// How `program` is started in the sandbox: `path` by exec with `argv`, with `descriptors` at the numbers 3 and up, the
// last of which is for its report (sandbox/report.h). Folders for temporary files among what is writable are empty
// there and its own, unless a word of the program or of the environment names something in them.
struct Start {
  std::string path;
  std::vector<std::string> argv;
  std::vector<int> descriptors;  // owned by this module, but for the last: `report`, to be closed by the caller
  int report_read = -1;          // to be read and closed by the caller
  // Where programs are to make temporary files that do not say where themselves; empty: where they always do.
  std::string temporary;
};
[[nodiscard]] Start start_of(const Program& program);

// Where a program that may write to these alone, without a sandbox, is to make temporary files that do not say where
// themselves; empty: where they always do.
[[nodiscard]] std::string place_for_temporary_files(const std::vector<std::string>& writable);

// While one of these is there, programs that this process starts have a network with a loopback that is theirs alone,
// made when the first of them starts: what others have left of their connections is in nobody's way. Where programs get
// the system's network, or there is no sandbox, it changes nothing. To be used by one thread, one at a time.
class OwnNetwork {
 public:
  OwnNetwork();
  ~OwnNetwork();
  OwnNetwork(const OwnNetwork&) = delete;
  OwnNetwork& operator=(const OwnNetwork&) = delete;
};

// Puts the program in the place of this process, which ends as it does. Returns only when that cannot be done.
void become(const Program& program);

}  // namespace coctilis::sandbox
