// The small program through which this one starts what a tree has a say in. It is started in the place of that program,
// puts itself into name spaces of its own, makes everything read only but what is said to be writable, and starts the
// program there; when the program ends, all that it has left running ends with it. It is linked statically and carried
// in the main program as bytes (base/sandbox.cpp), since it is started for every single command.
//
// Arguments, each a letter with its value directly behind it, up to "--":
//   f FD     where it reports (see below); without, it ends as the program does
//   u FD, n FD, i FD, v FD   the name spaces to enter: of users, the network, System V's means, the view of files
//   N FD     the network in its place that is not entered
//   w PATH   a folder or file that may be written to
//   T PATH   a folder for temporary files, in whose place the program sees an empty one of its own
//   k PATH   the one file that lies in one of those and is to be seen there, read only
//   s PATH   a socket that nobody gets to, besides those that are hidden already
//   c PATH   the folder to start in
//   p PATH   the program
//   m        modes of files count for the superuser, too
// Behind "--" the program's own argv follows; its environment is that of this process.
// With "h FD" first, sockets, and "d PATH" for each device that is to be there besides, nothing is started: the name
// spaces that all programs of a run enter are made, with a loopback, everything read only, harmless devices and the
// sockets hidden, and held until FD is closed.
//
// Report: one `Report` when the program has ended or could not be started; of what is held, one after each step.
#include <dirent.h>
#include <errno.h>
#include <fcntl.h>
#include <linux/capability.h>
#include <linux/landlock.h>
#include <net/if.h>
#include <poll.h>
#include <sched.h>
#include <signal.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/mount.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/sysinfo.h>
#include <sys/time.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include <initializer_list>

#include "sandbox/report.h"

// Newer than the headers of some systems (Linux 5.2 and 5.12, mount_setattr(2), open_tree(2), move_mount(2)).
#ifndef SYS_open_tree
#define SYS_open_tree 428
#define SYS_move_mount 429
#endif
#ifndef SYS_mount_setattr
#define SYS_mount_setattr 442
#endif

namespace {

using coctilis::sandbox::Report;

constexpr unsigned open_tree_clone = 1;
constexpr unsigned move_from_fd = 4;  // MOVE_MOUNT_F_EMPTY_PATH
constexpr uint64_t attribute_read_only = 1;
struct MountAttributes {
  uint64_t set = 0;
  uint64_t clear = 0;
  uint64_t propagation = 0;
  uint64_t user_name_space = 0;
};

constexpr int most = 4096;
struct List {
  const char* path[most];
  int count = 0;
  void add(const char* value) {
    if (count < most) path[count++] = value;
  }
};

struct Wanted {
  int report = -1;
  int hold = -1;
  int users = -1;
  int network = -1;
  bool enters_network = false;
  int messages = -1;
  int view = -1;
  List writable;
  List temporary;
  const char* kept = nullptr;
  List sockets;
  List devices;
  const char* folder = nullptr;
  const char* program = nullptr;
  bool modes_count = false;
  // Processes, bytes of memory, bytes of a file, and seconds by the clock; 0: no end.
  unsigned long long limits[4] = {0, 0, 0, 0};
  char** argv = nullptr;
};

int report_fd = -1;
int status_pipe[2] = {-1, -1};  // where nobody wants a report: how the program ended

void tell(Report::What what, int value, const char* where = "") {
  if (report_fd < 0) return;
  Report report;
  report.what = what;
  report.value = value;
  strncpy(report.where, where, sizeof report.where - 1);
  if (write(report_fd, &report, sizeof report) < 0) _exit(125);
}

[[noreturn]] void cannot(const char* where) {
  tell(Report::What::no_sandbox, errno, where);
  _exit(125);
}

int open_tree(const char* path) {
  return static_cast<int>(syscall(SYS_open_tree, AT_FDCWD, path, open_tree_clone | O_CLOEXEC | AT_RECURSIVE));
}
bool put(int tree, const char* path) { return syscall(SYS_move_mount, tree, "", AT_FDCWD, path, move_from_fd) == 0; }

bool read_arguments(int argc, char** argv, Wanted& out) {
  for (int i = 1; i < argc; ++i) {
    const char* value = argv[i] + 1;
    switch (argv[i][0]) {
      case 'f': out.report = atoi(value); break;
      case 'h': out.hold = atoi(value); break;
      case 'u': out.users = atoi(value); break;
      case 'i': out.messages = atoi(value); break;
      case 'v': out.view = atoi(value); break;
      case 'n': out.enters_network = true; [[fallthrough]];
      case 'N': out.network = atoi(value); break;
      case 'd': out.devices.add(value); break;
      case 'w': out.writable.add(value); break;
      case 'T': out.temporary.add(value); break;
      case 'k': out.kept = value; break;
      case 's': out.sockets.add(value); break;
      case 'c': out.folder = value; break;
      case 'p': out.program = value; break;
      case 'm': out.modes_count = true; break;
      case 'l':
        if (sscanf(value, "%llu,%llu,%llu,%llu", out.limits, out.limits + 1, out.limits + 2, out.limits + 3) != 4)
          return false;
        break;
      case '-': out.argv = argv + i + 1; return out.program != nullptr && out.argv[0] != nullptr;
      default: return false;
    }
  }
  return out.hold >= 0;
}

// Makes the folders that lead to a path below `from`, a place in it.
void make_way(char* path, char* from) {
  for (char* slash = strchr(from, '/'); slash != nullptr; slash = strchr(slash + 1, '/')) {
    *slash = 0;
    mkdir(path, 0755);
    *slash = '/';
  }
}

// Devices that do no harm, in a folder of their own (the others: disks, terminals, memory).
void make_devices(const List& more) {
  static const char* const names[] = {"null", "zero", "full", "random", "urandom"};
  int from[5];
  char path[256];
  for (int i = 0; i < 5; ++i) {
    snprintf(path, sizeof path, "/dev/%s", names[i]);
    from[i] = open_tree(path);
  }
  static int others[most];
  static struct stat kinds[most];
  for (int i = 0; i < more.count; ++i) {
    others[i] = stat(more.path[i], &kinds[i]) == 0 ? open_tree(more.path[i]) : -1;
  }
  if (mount("tmpfs", "/dev", "tmpfs", MS_NOSUID | MS_NOEXEC, "mode=0755,size=64k") != 0) cannot("devices");
  for (int i = 0; i < 5; ++i) {
    snprintf(path, sizeof path, "/dev/%s", names[i]);
    const int fd = open(path, O_CREAT | O_WRONLY | O_CLOEXEC, 0666);
    if (fd >= 0) close(fd);
    if (from[i] >= 0 && !put(from[i], path)) cannot("devices");
  }
  static const char* const links[][2] = {{"/proc/self/fd", "/dev/fd"},
                                         {"/proc/self/fd/0", "/dev/stdin"},
                                         {"/proc/self/fd/1", "/dev/stdout"},
                                         {"/proc/self/fd/2", "/dev/stderr"},
                                         {"pts/ptmx", "/dev/ptmx"}};
  for (const auto& link : links) {
    if (symlink(link[0], link[1]) != 0) cannot("devices");
  }
  for (int i = 0; i < more.count; ++i) {
    if (others[i] < 0) continue;
    strncpy(path, more.path[i], sizeof path - 1);
    path[sizeof path - 1] = 0;
    make_way(path, path + 5);
    if (S_ISDIR(kinds[i].st_mode)) {
      mkdir(path, 0755);
    } else if (const int fd = open(path, O_CREAT | O_WRONLY | O_CLOEXEC, 0666); fd >= 0) {
      close(fd);
    }
    if (!put(others[i], path)) cannot("devices that were asked for");
  }
  mkdir("/dev/shm", 01777);
  // Terminals of its own, for tests that want some.
  mkdir("/dev/pts", 0755);
  mount("devpts", "/dev/pts", "devpts", MS_NOSUID | MS_NOEXEC, "newinstance,ptmxmode=0666,mode=620");
  if (mount(nullptr, "/dev", nullptr, MS_REMOUNT | MS_BIND | MS_RDONLY | MS_NOSUID | MS_NOEXEC, nullptr) != 0)
    cannot("devices");
}

void hide(const List& sockets) {
  for (int i = 0; i < sockets.count; ++i) mount("/dev/null", sockets.path[i], nullptr, MS_BIND, nullptr);
}

// What all programs of a run see of files: everything read only.
void make_view(const List& sockets, const List& devices) {
  if (mount("none", "/", nullptr, MS_REC | MS_SLAVE, nullptr) != 0) cannot("mounts");
  MountAttributes read_only;
  read_only.set = attribute_read_only;
  if (syscall(SYS_mount_setattr, AT_FDCWD, "/", AT_RECURSIVE, &read_only, sizeof read_only) != 0) cannot("read only");
  hide(sockets);
  make_devices(devices);
}

// What one of them may write to.
void open_to_writing(const Wanted& wanted) {
  static int trees[most];
  const int kept = wanted.kept != nullptr ? open_tree(wanted.kept) : -1;
  MountAttributes may_be_written;
  may_be_written.clear = attribute_read_only;
  for (int i = 0; i < wanted.writable.count; ++i) {
    trees[i] = open_tree(wanted.writable.path[i]);
    // What the user's own mounts forbid stays forbidden.
    for (const unsigned deep : {static_cast<unsigned>(AT_RECURSIVE), 0U}) {
      if (trees[i] >= 0 &&
          syscall(SYS_mount_setattr, trees[i], "", AT_EMPTY_PATH | deep, &may_be_written, sizeof may_be_written) == 0)
        break;
    }
  }
  for (int i = 0; i < wanted.temporary.count; ++i) {
    if (mount("tmpfs", wanted.temporary.path[i], "tmpfs", MS_NOSUID | MS_NODEV, "mode=1777") != 0 && errno != ENOENT)
      cannot("temporary files");
  }
  if (static char path[4096]; kept >= 0 && strlen(wanted.kept) < sizeof path) {
    strncpy(path, wanted.kept, sizeof path - 1);
    make_way(path, path + 1);
    if (const int fd = open(path, O_CREAT | O_WRONLY | O_CLOEXEC, 0666); fd >= 0) close(fd);
    if (!put(kept, path)) cannot("this program");
  }
  for (int i = 0; i < wanted.writable.count; ++i) {
    // One that is not there counts for nothing.
    if (trees[i] >= 0 && !put(trees[i], wanted.writable.path[i])) cannot("writable folders");
  }
  // Memory that processes share by name: what one program of the tree leaves there is not for the next.
  mount("tmpfs", "/dev/shm", "tmpfs", MS_NOSUID | MS_NODEV, "mode=1777");
  hide(wanted.sockets);
}

// A second line behind the mounts, and what keeps it from processes outside (landlock(7)).
void restrict_by_landlock(const Wanted& wanted) {
  const long version = syscall(SYS_landlock_create_ruleset, nullptr, 0, LANDLOCK_CREATE_RULESET_VERSION);
  if (version < 1) return;
  uint64_t rights = LANDLOCK_ACCESS_FS_WRITE_FILE | LANDLOCK_ACCESS_FS_REMOVE_DIR | LANDLOCK_ACCESS_FS_REMOVE_FILE |
                    LANDLOCK_ACCESS_FS_MAKE_CHAR | LANDLOCK_ACCESS_FS_MAKE_DIR | LANDLOCK_ACCESS_FS_MAKE_REG |
                    LANDLOCK_ACCESS_FS_MAKE_SOCK | LANDLOCK_ACCESS_FS_MAKE_FIFO | LANDLOCK_ACCESS_FS_MAKE_BLOCK |
                    LANDLOCK_ACCESS_FS_MAKE_SYM;
  const uint64_t truncate = 1ULL << 14U;
  if (version >= 2) rights |= 1ULL << 13U;  // to move
  if (version >= 3) rights |= truncate;
  struct {
    uint64_t files, network, scoped;
  } rules = {rights, 0, version >= 6 ? 3ULL : 0ULL};
  const size_t size = version >= 6 ? 24 : 8;
  const int set = static_cast<int>(syscall(SYS_landlock_create_ruleset, &rules, size, 0));
  if (set < 0) return;
  const auto allow = [&](const char* path) {
    struct stat info;
    landlock_path_beneath_attr below;
    memset(&below, 0, sizeof below);
    // Not by open(2): where files that are opened are watched, each of these would wait for an answer.
    below.parent_fd = static_cast<int>(syscall(SYS_open_tree, AT_FDCWD, path, O_CLOEXEC));
    if (below.parent_fd < 0) return;
    const bool folder = fstat(below.parent_fd, &info) == 0 && S_ISDIR(info.st_mode);
    below.allowed_access = folder ? rights : rights & (LANDLOCK_ACCESS_FS_WRITE_FILE | truncate);
    syscall(SYS_landlock_add_rule, set, LANDLOCK_RULE_PATH_BENEATH, &below, 0);
    close(below.parent_fd);
  };
  for (int i = 0; i < wanted.writable.count; ++i) allow(wanted.writable.path[i]);
  for (int i = 0; i < wanted.temporary.count; ++i) allow(wanted.temporary.path[i]);
  allow("/dev");
  allow("/proc");
  syscall(SYS_landlock_restrict_self, set, 0);
  close(set);
}

// Of what the superuser may, only what concerns files and users; a mount that is read only stays so.
void drop_rights(bool modes_count) {
  static const int kept[] = {CAP_CHOWN,  CAP_DAC_OVERRIDE, CAP_DAC_READ_SEARCH,  CAP_FOWNER,  CAP_FSETID, CAP_SETGID,
                             CAP_SETUID, CAP_KILL,         CAP_NET_BIND_SERVICE, CAP_SYS_NICE};
  for (int right = 0; right <= 63; ++right) {
    bool keeps = false;
    for (const int one : kept) keeps = keeps || one == right;
    if (modes_count && (right == CAP_DAC_OVERRIDE || right == CAP_DAC_READ_SEARCH)) keeps = false;
    if (!keeps && prctl(PR_CAPBSET_READ, right, 0, 0, 0) == 1) prctl(PR_CAPBSET_DROP, right, 0, 0, 0);
  }
}

void set_limit(__rlimit_resource resource, rlim_t most_of_it) {
  rlimit limit;
  if (getrlimit(resource, &limit) != 0) return;
  if (limit.rlim_cur != RLIM_INFINITY && limit.rlim_cur <= most_of_it) return;
  limit.rlim_cur = most_of_it;
  if (limit.rlim_max == RLIM_INFINITY || limit.rlim_max > most_of_it) limit.rlim_max = most_of_it;
  setrlimit(resource, &limit);
}

[[noreturn]] void start(const Wanted& wanted) {
  for (const int number : {SIGINT, SIGTERM, SIGPIPE, SIGHUP}) signal(number, SIG_DFL);
  restrict_by_landlock(wanted);
  drop_rights(wanted.modes_count);
  if (wanted.limits[2] > 0) set_limit(RLIMIT_FSIZE, wanted.limits[2]);
  if (wanted.limits[0] > 0) set_limit(RLIMIT_NPROC, wanted.limits[0]);
  set_limit(RLIMIT_CORE, 0);
  execv(wanted.program, wanted.argv);
  int error = errno;
  if (error == ENOEXEC) {
    // A file that does not say what reads it is a script of the shell's (POSIX.1-2024, exec, "execvp").
    int count = 0;
    while (wanted.argv[count] != nullptr) ++count;
    char** words = static_cast<char**>(calloc(static_cast<size_t>(count) + 2, sizeof(char*)));
    static char shell[] = "/bin/sh";
    words[0] = shell;
    words[1] = const_cast<char*>(wanted.program);
    for (int i = 1; i < count; ++i) words[i + 1] = wanted.argv[i];
    execv(shell, words);
    error = errno;
  }
  tell(Report::What::not_started, error);
  _exit(127);
}

// What all processes here have in memory of their own, in bytes (proc(5), "statm").
uint64_t memory_in_use() {
  DIR* stream = opendir("/proc");
  if (stream == nullptr) return 0;
  const auto page = static_cast<uint64_t>(sysconf(_SC_PAGESIZE));
  uint64_t sum = 0;
  while (const dirent* entry = readdir(stream)) {
    if (entry->d_name[0] < '1' || entry->d_name[0] > '9') continue;
    char text[128];
    snprintf(text, sizeof text, "/proc/%.20s/statm", entry->d_name);
    const int fd = open(text, O_RDONLY | O_CLOEXEC);
    const ssize_t length = fd < 0 ? 0 : read(fd, text, sizeof text - 1);
    if (fd >= 0) close(fd);
    if (length <= 0) continue;
    text[length] = 0;
    char* at = text;
    strtoull(at, &at, 10);
    const uint64_t resident = strtoull(at, &at, 10);
    const uint64_t shared = strtoull(at, &at, 10);
    if (resident > shared) sum += (resident - shared) * page;
  }
  closedir(stream);
  return sum;
}

// The first process of the name space: ends when the program does, and everything else in it with it.
[[noreturn]] void watch_over(const Wanted& wanted) {
  prctl(PR_SET_NAME, coctilis::sandbox::first_process, 0, 0, 0);
  // Nobody looks into it by /proc.
  prctl(PR_SET_DUMPABLE, 0, 0, 0, 0);
  // Whoever ends the process that waits for it ends all of it.
  prctl(PR_SET_PDEATHSIG, SIGKILL, 0, 0, 0);
  if (mount("proc", "/proc", "proc", MS_NOSUID | MS_NODEV | MS_NOEXEC, nullptr) != 0) cannot("process table");
  if (wanted.folder != nullptr && chdir(wanted.folder) != 0) {
    tell(Report::What::not_started, errno);
    _exit(127);
  }
  const pid_t program = fork();
  if (program < 0) cannot("processes");
  if (program == 0) start(wanted);
  // What is written to is the program's business alone; but where nobody reads a report, it says why it was ended.
  const int last_word = report_fd < 0 ? fcntl(2, F_DUPFD_CLOEXEC, 3) : -1;
  for (int fd = 0; fd < 3; ++fd) close(fd);
  // What takes most of the machine's memory for itself is ended before the system has to choose whom it ends, and so is
  // what does not come to an end. What does not last for a second is never looked at.
  struct sigaction look;
  memset(&look, 0, sizeof look);
  look.sa_handler = [](int) {};
  sigaction(SIGALRM, &look, nullptr);
  itimerval second;
  memset(&second, 0, sizeof second);
  second.it_interval.tv_sec = second.it_value.tv_sec = 1;
  setitimer(ITIMER_REAL, &second, nullptr);
  timespec began;
  clock_gettime(CLOCK_MONOTONIC, &began);
  for (;;) {
    int status = 0;
    const pid_t ended = wait(&status);
    if (ended < 0 && errno == EINTR) {
      timespec now;
      clock_gettime(CLOCK_MONOTONIC, &now);
      const char* why =
          wanted.limits[1] > 0 && memory_in_use() >= wanted.limits[1] ? "it took too much memory"
          : wanted.limits[3] > 0 && static_cast<unsigned long long>(now.tv_sec - began.tv_sec) >= wanted.limits[3]
              ? "it took too long"
              : nullptr;
      // Nobody is there any more who could read what became of it: the run itself was killed.
      pollfd reader = {report_fd, 0, 0};
      if (report_fd >= 0 && poll(&reader, 1, 0) == 1 && (reader.revents & POLLERR) != 0) _exit(0);
      if (why == nullptr) continue;
      tell(Report::What::ended, SIGKILL, why);
      status = SIGKILL;
      if (last_word >= 0) dprintf(last_word, "[%s, and was ended]\n", why);
      if (report_fd < 0 && write(status_pipe[1], &status, sizeof status) < 0) _exit(125);
      _exit(0);
    }
    if (ended != program && ended > 0) continue;
    if (ended != program) _exit(125);
    tell(Report::What::ended, status);
    if (report_fd < 0 && write(status_pipe[1], &status, sizeof status) < 0) _exit(125);
    _exit(0);
  }
}

// Whether a process table of its own can be shown: not everywhere where there are name spaces.
void try_process_table() {
  const pid_t child = fork();
  if (child == 0) {
    if (unshare(CLONE_NEWNS | CLONE_NEWPID) != 0) _exit(errno);
    const pid_t first = fork();
    if (first == 0) _exit(mount("proc", "/proc", "proc", MS_NOSUID | MS_NODEV | MS_NOEXEC, nullptr) == 0 ? 0 : errno);
    int status = 0;
    waitpid(first, &status, 0);
    _exit(WEXITSTATUS(status));
  }
  int status = 0;
  if (child < 0 || waitpid(child, &status, 0) != child) cannot("processes");
  errno = WIFEXITED(status) ? WEXITSTATUS(status) : EPERM;
  if (errno != 0) cannot("process table");
}

// Makes the name spaces that the programs of a run enter, which last as long as somebody has them open; or, among the
// users of those, one more network.
[[noreturn]] void hold(const Wanted& wanted) {
  report_fd = wanted.hold;
  const auto step = [&] {
    char byte = 0;
    tell(Report::What::nothing, 0);
    if (read(wanted.hold, &byte, 1) != 1) _exit(1);
  };
  const bool only_network = wanted.users >= 0;
  if (only_network) {
    if (setns(wanted.users, CLONE_NEWUSER) != 0 || unshare(CLONE_NEWNET) != 0) cannot("network");
  } else {
    if (unshare(CLONE_NEWUSER) != 0) cannot("name spaces for users");
    step();  // the other side says who is who
    if (unshare(CLONE_NEWNET | CLONE_NEWNS | CLONE_NEWIPC) != 0) cannot("name spaces");
  }
  const int fd = socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0);
  ifreq request;
  memset(&request, 0, sizeof request);
  strcpy(request.ifr_name, "lo");
  request.ifr_flags = IFF_UP;
  if (fd < 0 || ioctl(fd, SIOCSIFFLAGS, &request) != 0) cannot("loopback");
  close(fd);
  if (!only_network) {
    make_view(wanted.sockets, wanted.devices);
    try_process_table();
  }
  step();  // the other side opens all of them
  _exit(0);
}

}  // namespace

int main(int argc, char** argv) {
  static Wanted wanted;
  if (!read_arguments(argc, argv, wanted)) return 125;
  if (wanted.hold >= 0) hold(wanted);
  report_fd = wanted.report;
  if (report_fd >= 0) fcntl(report_fd, F_SETFD, FD_CLOEXEC);
  // Signals to the group are for the program.
  for (const int number : {SIGINT, SIGTERM, SIGHUP}) signal(number, SIG_IGN);
  prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
  if (setns(wanted.users, CLONE_NEWUSER) != 0 || (wanted.enters_network && setns(wanted.network, CLONE_NEWNET) != 0) ||
      setns(wanted.messages, CLONE_NEWIPC) != 0 || setns(wanted.view, CLONE_NEWNS) != 0 ||
      unshare(CLONE_NEWNS | CLONE_NEWPID) != 0)
    cannot("name spaces");
  for (const int fd : {wanted.users, wanted.network, wanted.messages, wanted.view}) close(fd);
  open_to_writing(wanted);
  if (report_fd < 0 && pipe2(status_pipe, O_CLOEXEC) != 0) cannot("pipes");
  const pid_t first = fork();
  if (first < 0) cannot("processes");
  if (first == 0) watch_over(wanted);
  for (int fd = 0; fd < 3; ++fd) close(fd);
  int status = 0;
  while (waitpid(first, &status, 0) < 0 && errno == EINTR) {
  }
  if (report_fd >= 0) return 0;
  close(status_pipe[1]);
  if (read(status_pipe[0], &status, sizeof status) != sizeof status) return 125;
  if (!WIFSIGNALED(status)) return WEXITSTATUS(status);
  signal(WTERMSIG(status), SIG_DFL);
  raise(WTERMSIG(status));
  return 128 + WTERMSIG(status);
}
