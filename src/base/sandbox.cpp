#include "base/sandbox.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <linux/capability.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstring>
#include <mutex>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "sandbox/bytes.h"
#include "sandbox/report.h"

extern char** environ;

namespace coctilis::sandbox {

namespace {

// A number that no program is given, so that it can be put anywhere.
int out_of_the_way(int fd) {
  if (fd < 0) return fd;
  const int moved = ::fcntl(fd, F_DUPFD_CLOEXEC, 64);
  ::close(fd);
  return moved;
}

// What all programs of this process share: the program that starts them, and the name spaces that they enter.
struct Shared {
  int program = -1;
  int users = -1;
  int network = -1;
  std::string why_not;

  Shared() {
    const auto bytes = program_bytes();
    program = out_of_the_way(::memfd_create("coctilis-sandbox", MFD_CLOEXEC));
    if (program < 0 || ::write(program, bytes.data(), bytes.size()) != static_cast<ssize_t>(bytes.size())) {
      why_not = std::string("no program can be run from memory: ") + std::strerror(errno);
      return;
    }
    make_name_spaces();
  }

  [[nodiscard]] std::string path() const { return fmt::format("/proc/{}/fd/{}", ::getpid(), program); }

  // Starts the program so that it holds name spaces, opens these and lets go of it.
  void make_name_spaces() {
    int ends[2] = {-1, -1};
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) {
      why_not = std::strerror(errno);
      return;
    }
    for (int& end : ends) end = out_of_the_way(end);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, ends[1], 3);
    posix_spawn_file_actions_addclosefrom_np(&actions, 4);
    std::string name = "coctilis-sandbox";
    std::string word = "h3";
    char* argv[] = {name.data(), word.data(), nullptr};
    pid_t pid = 0;
    const int error = ::posix_spawn(&pid, path().c_str(), &actions, nullptr, argv, environ);
    posix_spawn_file_actions_destroy(&actions);
    ::close(ends[1]);
    if (error != 0) {
      why_not = std::strerror(error);
      ::close(ends[0]);
      return;
    }
    char byte = 0;
    const auto hears = [&] { return ::read(ends[0], &byte, 1) == 1; };
    const auto goes_on = [&] { return ::write(ends[0], &byte, 1) == 1; };
    if (!hears())
      why_not = "users may not have name spaces of their own";
    else if (!tell_who_is_who(pid) || !goes_on() || !hears())
      why_not = "a name space for users or the network cannot be set up";
    else {
      users = out_of_the_way(::open(fmt::format("/proc/{}/ns/user", pid).c_str(), O_RDONLY | O_CLOEXEC));
      network = out_of_the_way(::open(fmt::format("/proc/{}/ns/net", pid).c_str(), O_RDONLY | O_CLOEXEC));
      if (users < 0 || network < 0) why_not = "name spaces cannot be entered";
    }
    ::close(ends[0]);
    while (::waitpid(pid, nullptr, 0) < 0 && errno == EINTR) {
    }
  }

  // Everybody stays who he is: the superuser may say so of all, a user of himself (user_namespaces(7)).
  static bool tell_who_is_who(pid_t pid) {
    const auto put = [&](const char* file, const std::string& text) {
      const int fd = ::open(fmt::format("/proc/{}/{}", pid, file).c_str(), O_WRONLY | O_CLOEXEC);
      const bool good = fd >= 0 && ::write(fd, text.data(), text.size()) == static_cast<ssize_t>(text.size());
      if (fd >= 0) ::close(fd);
      return good;
    };
    const auto all = [](const char* file) {
      std::string out;
      for (const auto& line : text::split(files::read_system_file(file), '\n')) {
        const auto words = text::words(line);
        if (words.size() == 3) out += words[0] + " " + words[0] + " " + words[2] + "\n";
      }
      return out;
    };
    if (::geteuid() == 0 && put("uid_map", all("/proc/self/uid_map")) && put("gid_map", all("/proc/self/gid_map")))
      return true;
    return put("setgroups", "deny") && put("uid_map", fmt::format("{0} {0} 1", ::geteuid())) &&
           put("gid_map", fmt::format("{0} {0} 1", ::getegid()));
  }
};

Shared& shared() {
  static Shared one = [] {
    const observe::Apart apart;
    return Shared();
  }();
  return one;
}

// Sockets in the file system at which something may listen: a mount that is read only does not keep anybody from them.
std::vector<std::string> sockets() {
  static std::mutex guard;
  static std::vector<std::string> known;
  static double looked = -1;
  const std::lock_guard lock(guard);
  if (looked >= 0 && now() - looked < 1) return known;
  looked = now();
  known.clear();
  const observe::Apart apart;
  std::set<std::string> all;
  for (const auto& line : text::split(files::read_system_file("/proc/net/unix"), '\n')) {
    const auto at = line.find(" /");
    if (at != std::string::npos) all.insert(line.substr(at + 1));
  }
  for (const auto& path : all) {
    if (known.size() < 100 && files::exists(path)) known.push_back(path);
  }
  return known;
}

bool is_for_temporary_files(const std::string& folder) {
  if (folder == "/tmp" || folder == "/var/tmp") return true;
  std::error_code error;
  return folder == std::filesystem::temp_directory_path(error).string();
}

// Something that is there in a folder for temporary files is meant by the program: it has to see it.
bool names_something_in(const std::string& folder, const Program& program) {
  const auto names = [&](const std::string& word) {
    for (auto at = word.find(folder + "/"); at != std::string::npos; at = word.find(folder + "/", at + 1)) {
      const auto end = word.find_first_of("/:;,'\" \t\n)", at + folder.size() + 1);
      const std::string path = word.substr(at, end == std::string::npos ? end : end - at);
      if (path.size() > folder.size() + 1 && files::exists(path)) return true;
    }
    return false;
  };
  const observe::Apart apart;
  const char* path = std::getenv("PATH");
  return names(program.path) || files::is_below(program.folder, folder) || (path != nullptr && names(path)) ||
         std::any_of(program.argv->begin(), program.argv->end(), names) ||
         std::any_of(program.writable->begin(), program.writable->end(),
                     [&](const auto& other) { return other != folder && files::is_below(other, folder); });
}

}  // namespace

Start start_of(const Program& program) {
  Shared& all = shared();
  Start out;
  out.path = all.path();
  int report[2] = {-1, -1};
  if (::pipe2(report, O_CLOEXEC) != 0) return out;
  out.report_read = report[0];
  out.descriptors = {all.users, all.network, out_of_the_way(report[1])};
  auto& argv = out.argv;
  argv = {"coctilis-sandbox", "u3", "n4", "f5", "l"};
  // In a name space of its own the superuser would have rights again that it had given up.
  const bool rights = ::prctl(PR_CAPBSET_READ, CAP_DAC_OVERRIDE, 0, 0, 0) == 1;
  if (program.modes_count || !rights) argv.emplace_back("m");
  std::error_code error;
  const std::string usual = std::filesystem::temp_directory_path(error).string();
  bool own = false;
  for (const auto& folder : *program.writable) {
    if (!is_for_temporary_files(folder)) {
      argv.push_back("w" + folder);
      if (out.temporary.empty()) out.temporary = folder;
    } else if (!names_something_in(folder, program)) {
      argv.push_back("T" + folder);
      own = own || folder == usual;
    } else if (program.shares_temporary) {
      argv.push_back("w" + folder);
      own = own || folder == usual;
    }
  }
  if (own) out.temporary.clear();
  for (const auto& path : sockets()) argv.push_back("s" + path);
  if (!program.folder.empty()) argv.push_back("c" + program.folder);
  argv.push_back("p" + program.path);
  argv.emplace_back("--");
  argv.insert(argv.end(), program.argv->begin(), program.argv->end());
  return out;
}

void become(const Program& program) {
  Start start = start_of(program);
  if (start.report_read < 0) return;
  std::erase(start.argv, "f5");
  ::close(start.report_read);
  ::close(start.descriptors.back());
  std::vector<char*> words;
  for (auto& word : start.argv) words.push_back(word.data());
  words.push_back(nullptr);
  if (!start.temporary.empty()) ::setenv("TMPDIR", start.temporary.c_str(), 0);
  if (::dup2(start.descriptors[0], 3) == 3 && ::dup2(start.descriptors[1], 4) == 4)
    ::execv(start.path.c_str(), words.data());
}

bool inside() {
  static const bool yes = files::read_system_file("/proc/1/comm") == std::string(first_process) + "\n";
  return yes;
}

const std::string& why_not() {
  static const std::string reason = [] {
    if (!shared().why_not.empty()) return shared().why_not;
    Command trial;
    trial.argv = {"/bin/true"};
    trial.folder = "/";
    trial.sandboxed = true;
    const Ended ended = run_in_sandbox(trial);
    return ended.good() ? std::string{} : ended.text();
  }();
  return reason;
}

}  // namespace coctilis::sandbox
