#include "engine/kiln.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/confine.h"
#include "base/disk.h"
#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "engine/survivors.h"

namespace coctilis::engine {

namespace {

std::string running_mark(const std::string& kiln) { return kiln + "/running"; }
std::string place_mark(const std::string& kiln) { return kiln + "/place"; }

[[noreturn]] void cannot_write(const std::string& kiln, int error) {
  throw Fault({Exit::kiln,
               {kiln, 0, 0},
               "the kiln '" + kiln + "' cannot be written",
               std::strerror(error),
               remedy_for_writing(error),
               {}});
}

Problem link_at(const std::string& path) {
  std::error_code error;
  return {Exit::kiln,
          {path, 0, 0},
          "the kiln '" + path + "' is a link",
          "it leads to " + text::printable_line(std::filesystem::weakly_canonical(path, error).string()),
          "remove it, or choose another folder with --kiln DIR",
          {}};
}

// A folder that holds anything but kilns is no place for them: the ignore file would hide what lies in it, and cleaning
// would stand beside it.
void check_root(const std::string& root, const std::string& mark, const std::string& tree) {
  std::error_code error;
  if (const auto astray = led_astray(root, tree)) throw Fault(*astray);
  if (files::is_link(root) && !files::is_folder(root))
    throw Fault({Exit::kiln,
                 {root, 0, 0},
                 "the kiln '" + root + "' is a link that leads nowhere",
                 {},
                 "remove it, or choose another folder with --kiln DIR",
                 {}});
  if (files::is_file(root))
    throw Fault(
        {Exit::usage, {root, 0, 0}, "the kiln '" + root + "' is a file", {}, "choose a folder with --kiln DIR", {}});
  if (files::read(root + "/.gitignore").value_or("").starts_with(mark)) return;
  for (const auto& name : files::names_in(root)) {
    if (name.starts_with(".gitignore.")) continue;  // of a run that was killed just then
    throw Fault({Exit::usage,
                 {root, 0, 0},
                 "the folder '" + root + "' is no kiln and not empty",
                 "there is '" + text::printable_line(name) + "' in it",
                 "choose a new or empty folder with --kiln DIR",
                 {}});
  }
}

void prepare_root(const std::string& root, const std::string& mark, const std::string& tree) {
  check_root(root, mark, tree);
  files::make_folder(root);
  if (!files::is_file(root + "/.gitignore")) files::write(root + "/.gitignore", mark + "\n*\n");
}

// Folders for temporary files that killed runs have left (see files::ScratchFolder).
void remove_scratch_of_the_dead() {
  const std::string where = files::temporary_folder();
  for (const auto& name : files::names_in(where)) {
    if (!name.starts_with(files::scratch_name)) continue;
    const auto words = text::split(name, '-');
    if (words.size() < 3) continue;
    const std::string& pid = words[words.size() - 2];
    if (pid.empty() || pid.find_first_not_of("0123456789") != std::string::npos || files::exists("/proc/" + pid))
      continue;
    std::error_code error;
    std::filesystem::remove_all(where + "/" + name, error);
  }
}

// What a folder has that no archive can bring along: when and as which one it was made here.
std::string identity_of(const std::string& folder) {
  struct statx info {};
  if (::statx(AT_FDCWD, folder.c_str(), AT_SYMLINK_NOFOLLOW, STATX_INO | STATX_BTIME, &info) != 0) return {};
  const bool born = (info.stx_mask & STATX_BTIME) != 0;
  return std::to_string(info.stx_ino) + " " + std::to_string(born ? info.stx_btime.tv_sec : 0) + " " +
         std::to_string(born ? info.stx_btime.tv_nsec : 0);
}

// What lies in a kiln hangs on where it is and on where the tree is. Returns what is to be said of it.
std::string claim(const std::string& kiln, const std::string& tree) {
  const std::string here = tree + "\n" + kiln + "\n" + identity_of(kiln) + "\n";
  const auto before = files::read(place_mark(kiln));
  if (before == here) return {};
  std::string note;
  if (before) {
    const auto lines = text::split(*before, '\n');
    const std::string& other = lines.front();
    if (other != tree && files::is_folder(other))
      throw Fault({Exit::kiln,
                   {kiln, 0, 0},
                   "the kiln '" + kiln + "' is that of another tree",
                   "it was made for " + other,
                   "choose another folder with --kiln DIR, or remove this one with 'coctilis clean --yes --kiln DIR'",
                   {}});
    const bool same_names = lines.size() > 1 && lines[1] == kiln;
    const bool older = lines.size() < 4;  // which did not say which folder it was
    note = other != tree ? "the tree was at " + text::printable_line(other) + " before; its kiln is begun afresh"
           : same_names  ? older ? "the kiln is that of an older version; it is begun afresh"
                                 : "the kiln was not made here; it is begun afresh"
                         : "the kiln was moved; it is begun afresh";
  }
  // The records of earlier runs, and what users have chosen, say something for themselves. Where they came with a tree
  // they say no more than the tree can itself.
  std::error_code error;
  for (const auto& name : files::names_in(kiln)) {
    const bool stays =
        name == "lock" || ((name == "runs" || name == "options") && before && !files::is_link(kiln + "/" + name));
    if (!stays) std::filesystem::remove_all(kiln + "/" + name, error);
  }
  files::write(place_mark(kiln), here);
  return note;
}

// Of a number of a process as the lock has it.
bool is_alive(const std::string& pid) {
  return !pid.empty() && pid.find_first_not_of("0123456789") == std::string::npos && files::exists("/proc/" + pid);
}

}  // namespace

KilnLock::~KilnLock() {
  ::unlink(running_mark(kiln_).c_str());
  ::close(fd_);
}

Result<std::shared_ptr<KilnLock>> lock_kiln(const std::string& kiln) {
  return guarded("locking the kiln", [&] {
    const std::string path = kiln + "/lock";
    const int fd = disk().open(path.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW, 0666);
    if (fd < 0) cannot_write(kiln, errno);
    int error = ::flock(fd, LOCK_EX | LOCK_NB) == 0 ? 0 : errno;
    // A process that a killed run was about to start holds its lock until it, too, is gone.
    for (const double until = now() + 2;
         error == EWOULDBLOCK && !is_alive(files::read(path).value_or("")) && now() < until;) {
      ::usleep(5000);
      error = ::flock(fd, LOCK_EX | LOCK_NB) == 0 ? 0 : errno;
    }
    if (error != 0) {
      const std::string holder = files::read(path).value_or("");
      ::close(fd);
      if (error != EWOULDBLOCK)
        throw Fault({Exit::kiln,
                     {kiln, 0, 0},
                     "the kiln '" + kiln + "' cannot be locked",
                     std::strerror(error),
                     "choose a folder on another file system with --kiln DIR",
                     {}});
      throw Fault({Exit::kiln,
                   {kiln, 0, 0},
                   "the kiln '" + kiln + "' is in use by another run",
                   holder.empty() ? "" : "process " + text::printable_line(text::clip(holder, 20)),
                   "wait for it to end, or choose another folder with --kiln DIR",
                   {}});
    }
    const std::string self = std::to_string(::getpid());
    if (disk().truncate(fd, 0) != 0 || disk().write_all(fd, self) != 0) {
      error = errno;
      ::close(fd);
      cannot_write(kiln, error);
    }
    return std::make_shared<KilnLock>(fd, kiln);
  });
}

std::optional<Problem> led_astray(const std::string& path, const std::string& tree) {
  if (!files::is_below(path, tree) || (!files::is_link(path) && files::lies_below(path, tree))) return std::nullopt;
  return link_at(path);
}

Result<bool> open_root(const std::string& root, const std::string& mark, const std::string& tree) {
  return guarded("opening the kiln", [&] {
    prepare_root(root, mark, tree);
    return true;
  });
}

Result<OpenedKiln> open_kiln(const std::string& root, const std::string& kiln, const std::string& mark,
                             const std::string& tree) {
  return guarded("opening the kiln", [&] {
    prepare_root(root, mark, tree);
    if (files::is_link(kiln)) throw Fault(link_at(kiln));
    files::make_folder(kiln);
    OpenedKiln out;
    auto lock = lock_kiln(kiln);
    if (!lock) throw Fault(lock.problem());
    out.lock = *lock;
    if (files::exists(running_mark(kiln))) {
      std::vector<pid_t> left;
      // Only a process without a limit sees what others are told (landlock(7), "Ptrace restrictions").
      without_limit([&] { left = end_survivors(kiln); });
      if (!left.empty())
        throw Fault({Exit::kiln,
                     {kiln, 0, 0},
                     "a process of a run that was killed still works in the kiln '" + kiln + "'",
                     "process " + std::to_string(left.front()) + " cannot be ended",
                     "end it, or choose another folder with --kiln DIR",
                     {}});
      without_limit(remove_scratch_of_the_dead);
    }
    out.note = claim(kiln, tree);
    mark_children(kiln);
    files::write(running_mark(kiln), std::to_string(::getpid()) + "\n");
    return out;
  });
}

}  // namespace coctilis::engine
