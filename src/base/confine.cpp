#include "base/confine.h"

#include <fcntl.h>
#include <linux/landlock.h>
#include <sched.h>
#include <sys/mount.h>
#include <sys/prctl.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>

#include "base/files.h"
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

bool put_in_place_of(const std::string& tree, const std::string& copy, const std::string& kiln) {
  const auto user = std::to_string(::geteuid());
  const auto group = std::to_string(::getegid());
  const bool inside = files::is_below(kiln, tree);
  const int kept = inside ? ::open(kiln.c_str(), O_PATH | O_CLOEXEC) : -1;
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

Confinement confinement_of(const std::string& tree, const std::string& kiln) {
  Confinement out;
  out.writable = {kiln};
  const bool copy = files::is_below(tree, kiln);
  std::error_code error;
  const std::string temporary = std::filesystem::temp_directory_path(error).string();
  for (const auto& folder : {temporary, std::string("/tmp"), std::string("/var/tmp")}) {
    const std::string real = std::filesystem::weakly_canonical(folder, error).string();
    if (copy || !files::is_below(tree, error ? folder : real)) {
      if (std::find(out.writable.begin(), out.writable.end(), folder) == out.writable.end())
        out.writable.push_back(folder);
    } else if (folder == temporary) {
      out.environment = {{"TMPDIR", kiln + "/temporary"}};
    }
  }
  return out;
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
