#include "base/sandbox.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <linux/capability.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/sysinfo.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <charconv>
#include <cstring>
#include <mutex>

#include "base/confine.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/own_program.h"
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

// Sockets in the file system at which something listens: a mount that is read only does not keep anybody from them.
// Looked for once a second.
class Sockets {
 public:
  std::set<std::string> now_there() {
    const std::lock_guard lock(guard_);
    if (looked_ >= 0 && now() - looked_ < 1) return known_;
    looked_ = now();
    known_.clear();
    for (const auto& line : text::split(files::read_system_file("/proc/net/unix"), '\n')) {
      const auto at = line.find(" /");
      if (at != std::string::npos && files::exists(line.substr(at + 1))) known_.insert(line.substr(at + 1));
    }
    return known_;
  }

 private:
  std::mutex guard_;
  std::set<std::string> known_;
  double looked_ = -1;
};

constexpr const char* report_word = "f7";

Allowed& allowed_now() {
  static Allowed one;
  return one;
}

// The network of an OwnNetwork: wanted, and made when it is first used.
struct Network {
  bool wanted = false;
  int fd = -1;
};
Network& network_now() {
  static Network one;
  return one;
}

// What all programs of this process share: the program that starts them, and the name spaces that they enter.
struct Shared {
  int program = -1;
  std::vector<int> name_spaces;  // in the order of the letters u, n, i and v
  Sockets sockets;
  std::set<std::string> hidden;  // of these, already in the name space
  std::string why_not;

  Shared() {
    const observe::Apart apart;
    const auto bytes = program_bytes();
    program = out_of_the_way(::memfd_create("coctilis-sandbox", MFD_CLOEXEC));
    if (program < 0 || ::write(program, bytes.data(), bytes.size()) != static_cast<ssize_t>(bytes.size())) {
      why_not = std::string("no program can be run from memory: ") + std::strerror(errno);
      return;
    }
    without_limit([&] { make_name_spaces(); });
  }

  [[nodiscard]] std::string path() const { return fmt::format("/proc/{}/fd/{}", ::getpid(), program); }

  // Starts the program so that it holds name spaces, opens these and lets go of it.
  void make_name_spaces() {
    hidden = sockets.now_there();
    std::vector<std::string> words;
    for (const auto& path : hidden) words.push_back("s" + path);
    for (const auto& device : allowed_now().devices) words.push_back("d" + device);
    why_not = hold(words, -1, [&](pid_t pid, int control) { open_name_spaces(pid, control); });
  }

  // One more network; -1: none could be made.
  int make_network() {
    int network = -1;
    hold({"u4"}, name_spaces.front(), [&](pid_t pid, int control) {
      Report report;
      if (::read(control, &report, sizeof report) != static_cast<ssize_t>(sizeof report) ||
          report.what != Report::What::nothing)
        return;
      network = out_of_the_way(::open(fmt::format("/proc/{}/ns/net", pid).c_str(), O_RDONLY | O_CLOEXEC));
    });
    return network;
  }

  // Starts the program with these words, its control at the number 3 and `more` (unless it is -1) at 4, and calls `use`
  // while it is there. What was in the way; what `use` says of that in `why_not` counts as well.
  template <class Use>
  std::string hold(const std::vector<std::string>& more_words, int more, Use use) {
    int ends[2] = {-1, -1};
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) return std::strerror(errno);
    for (int& end : ends) end = out_of_the_way(end);
    std::vector<std::string> words = {"coctilis-sandbox", "h3"};
    words.insert(words.end(), more_words.begin(), more_words.end());
    std::vector<char*> argv;
    for (auto& word : words) argv.push_back(word.data());
    argv.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, ends[1], 3);
    if (more >= 0) posix_spawn_file_actions_adddup2(&actions, more, 4);
    posix_spawn_file_actions_addclosefrom_np(&actions, more >= 0 ? 5 : 4);
    pid_t pid = 0;
    const int error = ::posix_spawn(&pid, path().c_str(), &actions, nullptr, argv.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    ::close(ends[1]);
    if (error == 0) use(pid, ends[0]);
    ::close(ends[0]);
    while (error == 0 && ::waitpid(pid, nullptr, 0) < 0 && errno == EINTR) {
    }
    return error != 0 ? std::strerror(error) : why_not;
  }

  void open_name_spaces(pid_t pid, int control) {
    const auto hears = [&] {
      Report report;
      if (::read(control, &report, sizeof report) != static_cast<ssize_t>(sizeof report))
        why_not = "it ended while it was set up";
      else if (report.what == Report::What::no_sandbox)
        why_not = std::string(report.where) + ": " + std::strerror(report.value);
      return why_not.empty();
    };
    if (!hears()) return;
    if (!tell_who_is_who(pid) || ::write(control, "", 1) != 1) {
      why_not = "a name space for users cannot be set up";
      return;
    }
    if (!hears()) return;
    for (const char* name : {"user", "net", "ipc", "mnt"}) {
      name_spaces.push_back(
          out_of_the_way(::open(fmt::format("/proc/{}/ns/{}", pid, name).c_str(), O_RDONLY | O_CLOEXEC)));
      if (name_spaces.back() < 0) why_not = std::string("a name space cannot be opened: ") + std::strerror(errno);
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
  static Shared one;
  return one;
}

bool is_for_temporary_files(const std::string& folder) {
  if (folder == "/tmp" || folder == "/var/tmp") return true;
  std::error_code error;
  return folder == std::filesystem::temp_directory_path(error).string();
}

// Something that is there in a folder for temporary files is meant by the program: it has to see it. `self` is there
// wherever it lies.
bool names_something_in(const std::string& folder, const Program& program, const std::string& self) {
  const auto names = [&](const std::string& word) {
    if (word == self) return false;
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

std::string place_for_temporary_files(const std::vector<std::string>& writable) {
  std::error_code error;
  const std::string usual = std::filesystem::temp_directory_path(error).string();
  std::string out;
  for (const auto& folder : writable) {
    if (folder == usual) return {};
    if (out.empty() && !is_for_temporary_files(folder)) out = folder;
  }
  return out;
}

Start start_of(const Program& started) {
  Shared& all = shared();
  Program program = started;
  std::error_code error;
  // Where it starts has to be there, also when nobody has said where that is.
  if (program.folder.empty()) program.folder = std::filesystem::current_path(error).string();
  Start out;
  out.path = all.path();
  int report[2] = {-1, -1};
  if (::pipe2(report, O_CLOEXEC) != 0) return out;
  out.report_read = report[0];
  out.descriptors = all.name_spaces;
  // The user name space comes first, then the network.
  if (auto& network = network_now(); network.wanted && out.descriptors.size() > 1) {
    if (network.fd < 0) network.fd = all.make_network();
    if (network.fd >= 0) out.descriptors[1] = network.fd;
  }
  out.descriptors.push_back(out_of_the_way(report[1]));
  auto& argv = out.argv;
  argv = {"coctilis-sandbox", "u3", allowed_now().network ? "N4" : "n4", "i5", "v6", report_word};
  // In a name space of its own the superuser would have rights again that it had given up.
  const bool rights = ::prctl(PR_CAPBSET_READ, CAP_DAC_OVERRIDE, 0, 0, 0) == 1;
  if (program.modes_count || !rights) argv.emplace_back("m");
  const std::string usual = std::filesystem::temp_directory_path(error).string();
  const std::string self = own_program();
  bool own = false;
  bool hidden = false;  // this program itself, which inner makes and much else are
  for (const auto& folder : *program.writable) {
    if (!is_for_temporary_files(folder)) {
      argv.push_back("w" + folder);
      if (out.temporary.empty()) out.temporary = folder;
    } else if (!names_something_in(folder, program, self)) {
      argv.push_back("T" + folder);
      hidden = hidden || files::is_below(self, folder);
      own = own || folder == usual;
    } else if (program.shares_temporary) {
      argv.push_back("w" + folder);
      own = own || folder == usual;
    }
  }
  if (own) out.temporary.clear();
  if (hidden) argv.push_back("k" + self);
  for (const auto& path : all.sockets.now_there()) {
    if (!all.hidden.contains(path)) argv.push_back("s" + path);
  }
  argv.push_back("l" + to_word(in_force(allowed_now().limits)));
  argv.push_back("c" + program.folder);
  argv.push_back("p" + program.path);
  argv.emplace_back("--");
  argv.insert(argv.end(), program.argv->begin(), program.argv->end());
  return out;
}

OwnNetwork::OwnNetwork() { network_now().wanted = !allowed_now().network && why_not().empty() && !inside(); }

OwnNetwork::~OwnNetwork() {
  auto& network = network_now();
  if (network.fd >= 0) ::close(network.fd);
  network = {};
}

void become(const Program& program) {
  Start start = start_of(program);
  if (start.report_read < 0) return;
  std::erase(start.argv, report_word);
  ::close(start.report_read);
  ::close(start.descriptors.back());
  std::vector<char*> words;
  for (auto& word : start.argv) words.push_back(word.data());
  words.push_back(nullptr);
  if (!start.temporary.empty()) ::setenv("TMPDIR", start.temporary.c_str(), 0);
  for (std::size_t i = 0; i + 1 < start.descriptors.size(); ++i) {
    const int number = 3 + static_cast<int>(i);
    if (::dup2(start.descriptors[i], number) != number) return;
  }
  ::execv(start.path.c_str(), words.data());
}

bool inside() {
  static const bool yes = files::read_system_file("/proc/1/comm") == std::string(first_process) + "\n";
  return yes;
}

const std::string& why_not() { return shared().why_not; }

Limits usual_limits() {
  static const Limits usual = [] {
    struct sysinfo machine {};
    const std::uint64_t memory =
        ::sysinfo(&machine) == 0 ? static_cast<std::uint64_t>(machine.totalram) * machine.mem_unit : 0;
    return Limits{32768, memory / 4 * 3, 64000000000ULL, 24ULL * 3600};
  }();
  return usual;
}

Limits in_force(const Limits& limits) {
  const Limits usual = usual_limits();
  const auto either = [](std::uint64_t told, std::uint64_t other) { return told > 0 ? told : other; };
  return {either(limits.processes, usual.processes), either(limits.memory, usual.memory),
          either(limits.file_size, usual.file_size), either(limits.seconds, usual.seconds)};
}

std::string to_word(const Limits& limits) {
  return fmt::format("{},{},{},{}", limits.processes, limits.memory, limits.file_size, limits.seconds);
}

Limits limits_of_word(const std::string& word) {
  const auto parts = text::split(word, ',');
  if (parts.size() != 4) return {};
  std::array<std::uint64_t, 4> out{};
  for (std::size_t i = 0; i < 4; ++i) {
    const auto& part = parts[i];
    if (std::from_chars(part.data(), part.data() + part.size(), out[i]).ptr != part.data() + part.size()) return {};
  }
  return {out[0], out[1], out[2], out[3]};
}

void allow(const Allowed& allowed) { allowed_now() = allowed; }
const Allowed& allowed() { return allowed_now(); }

}  // namespace coctilis::sandbox
