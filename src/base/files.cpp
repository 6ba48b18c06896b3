#include "base/files.h"

#include <dirent.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <fnmatch.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <mutex>

#include "base/confine.h"
#include "base/disk.h"
#include "base/observed.h"
#include "base/text.h"

namespace coctilis::files {

namespace {
[[noreturn]] void cannot_write(const fs::path& path, int error) {
  if (const auto link = error == EACCES ? way_out(path.string()) : std::string(); !link.empty())
    throw Fault({Exit::kiln,
                 {path.string(), 0, 0},
                 fmt::format("'{}' is not written: a link leads out of the kiln", path.string()),
                 link,
                 "'coctilis clean --yes' takes the kiln away; look at what made the link before you build again",
                 {}});
  throw Fault({Exit::kiln,
               {path.string(), 0, 0},
               fmt::format("cannot write '{}'", path.string()),
               std::strerror(error),
               remedy_for_writing(error),
               {}});
}

std::optional<std::string> read_unseen(const fs::path& path, std::uint64_t most = most_bytes, bool beginning = false) {
  // What is no file may wait for somebody who writes to it.
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  struct stat info {};
  if (fd < 0) return std::nullopt;
  if (::fstat(fd, &info) != 0 || !S_ISREG(info.st_mode) ||
      (!beginning && static_cast<std::uint64_t>(info.st_size) > most)) {
    ::close(fd);
    return std::nullopt;
  }
  std::string out(std::min(static_cast<std::uint64_t>(info.st_size), most), '\0');
  std::size_t size = 0;
  while (size < out.size()) {
    const ssize_t n = ::read(fd, out.data() + size, out.size() - size);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    size += static_cast<std::size_t>(n);
  }
  ::close(fd);
  out.resize(size);
  return out;
}
}  // namespace

std::optional<std::string> read(const fs::path& path) {
  observe::content(path.native());
  return read_unseen(path);
}

std::string read_system_file(const std::string& path) {
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  std::string out;
  if (fd < 0) return out;
  char buffer[16384];
  for (ssize_t n = 1; n > 0 && out.size() < (1U << 20U);) {
    n = ::read(fd, buffer, sizeof buffer);
    if (n > 0) out.append(buffer, static_cast<std::size_t>(n));
  }
  ::close(fd);
  return out;
}

std::string read_beginning(const fs::path& path, std::size_t bytes) {
  observe::content(path.native());
  return read_unseen(path, bytes, true).value_or("");
}

void make_folder(const fs::path& path) {
  std::error_code error;
  fs::create_directories(path, error);
  std::error_code none;
  if (error && !fs::is_directory(path, none)) cannot_write(path, error.value());
  observe::folder(path.native());
}

void write(const fs::path& path, std::string_view content) {
  static std::atomic<unsigned> serial{0};
  if (!path.parent_path().empty()) make_folder(path.parent_path());
  const std::string temporary = path.string() + fmt::format(".{}-{}.part", ::getpid(), serial++);
  int fd = disk().open(temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW, 0666);
  if (fd < 0 && errno == EEXIST && ::unlink(temporary.c_str()) == 0)
    fd = disk().open(temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW, 0666);
  if (fd < 0) cannot_write(path, errno);
  int error = disk().write_all(fd, content);
  if (::close(fd) != 0 && error == 0) error = errno;
  if (error == 0 && disk().rename(temporary.c_str(), path.c_str()) != 0) error = errno;
  if (error != 0) {
    ::unlink(temporary.c_str());
    cannot_write(path, error);
  }
  observe::wrote(path.native());
}

bool write_if_different(const fs::path& path, std::string_view content) {
  if (const auto old = read_unseen(path); old && *old == content) {
    observe::wrote(path.native());
    return false;
  }
  write(path, content);
  return true;
}

std::string absolute(std::string_view path, const std::string& base) {
  // The usual path has nothing that would be taken out, and is put together at once.
  const auto is_plain = [](std::string_view text) {
    return text.find("//") == std::string_view::npos && text.find("/.") == std::string_view::npos;
  };
  if (!path.empty() && path.back() != '/' && path[0] != '.' && is_plain(path)) {
    if (path[0] == '/') return std::string(path);
    if (!base.empty() && base[0] == '/' && base.back() != '/' && is_plain(base)) {
      std::string out;
      out.reserve(base.size() + 1 + path.size());
      return out.append(base).append("/").append(path);
    }
  }
  std::string out = (fs::path(base) / fs::path(path)).lexically_normal().string();
  while (out.size() > 1 && out.back() == '/') out.pop_back();
  return out;
}
std::string absolute(std::string_view path, const fs::path& base) { return absolute(path, base.native()); }
std::string absolute(std::string_view path) {
  return path.starts_with('/') ? absolute(path, std::string("/")) : absolute(path, working_folder());
}

std::string working_folder() {
  std::error_code error;
  const auto path = fs::current_path(error);
  if (error)
    throw Fault({Exit::usage,
                 {},
                 "the working folder is not there any more",
                 error.message(),
                 "change to a folder that is there, or name the tree by its whole path from one",
                 {}});
  return path.string();
}

std::string temporary_folder() {
  const char* asked = std::getenv("TMPDIR");
  const std::string folder = asked != nullptr && *asked != '\0' ? asked : "/tmp";
  struct stat info {};
  if (::stat(folder.c_str(), &info) == 0 && S_ISDIR(info.st_mode)) return absolute(folder);
  throw Fault({Exit::kiln,
               {folder, 0, 0},
               "the folder for temporary files '" + folder + "' is not there",
               asked != nullptr && *asked != '\0' ? "TMPDIR names it" : "",
               "make it, or set TMPDIR to another",
               {}});
}

bool is_below(std::string_view path, std::string_view folder) {
  if (folder == "/") return path.starts_with('/');
  return path.starts_with(folder) && (path.size() == folder.size() || path[folder.size()] == '/');
}

bool lies_below(const std::string& path, const std::string& folder) {
  if (!is_below(path, folder)) return false;
  if (path == folder) return true;
  std::error_code error;
  const fs::path parent = fs::weakly_canonical(fs::path(path).parent_path(), error);
  if (error) return false;  // a ring of links, say
  const fs::path real = fs::weakly_canonical(folder, error);
  return !error && is_below(parent.string(), real.string());
}

std::string below(const std::string& path, const std::string& base) {
  if (path == base) return ".";
  return is_below(path, base) ? path.substr(base == "/" ? 1 : base.size() + 1) : path;
}

std::string relative(const std::string& path, const std::string& from_folder) {
  return fs::path(path).lexically_relative(from_folder).string();
}

bool exists(const std::string& path) {
  observe::presence(path);
  struct stat info {};
  return ::stat(path.c_str(), &info) == 0;
}

bool is_link(const std::string& path) {
  observe::link(path);
  struct stat info {};
  return ::lstat(path.c_str(), &info) == 0 && S_ISLNK(info.st_mode);
}

std::string why_not_read(const std::string& path) {
  struct stat info {};
  if (::stat(path.c_str(), &info) != 0) {
    if (errno == ENOENT || errno == ENOTDIR) return "is not there";
    return errno == EACCES ? "cannot be looked at by this user"
                           : std::string("cannot be looked at: ") + std::strerror(errno);
  }
  if (S_ISDIR(info.st_mode)) return "is a folder";
  if (!S_ISREG(info.st_mode)) return "is no file but a device, a pipe or a socket";
  if (static_cast<std::uint64_t>(info.st_size) > most_bytes)
    return fmt::format("has {} MiB: more than {} are not read", info.st_size >> 20, most_bytes >> 20U);
  return ::access(path.c_str(), R_OK) != 0 ? "is there, but this user may not read it" : "could not be read";
}

bool is_file(const std::string& path) {
  observe::presence(path);
  struct stat info {};
  return ::stat(path.c_str(), &info) == 0 && S_ISREG(info.st_mode);
}

bool is_folder(const std::string& path) {
  observe::folder(path);
  struct stat info {};
  return ::stat(path.c_str(), &info) == 0 && S_ISDIR(info.st_mode);
}

bool is_program(const std::string& path) { return is_file(path) && ::access(path.c_str(), X_OK) == 0; }

std::vector<std::string> names_in(const std::string& folder) {
  observe::entries(folder);
  std::vector<std::string> out;
  if (DIR* stream = ::opendir(folder.c_str()); stream != nullptr) {
    while (const dirent* entry = ::readdir(stream)) {
      const std::string_view name = entry->d_name;
      if (name != "." && name != "..") out.emplace_back(name);
    }
    ::closedir(stream);
  }
  std::sort(out.begin(), out.end());
  return out;
}

bool matches(const std::string& pattern, const std::string& name) {
  return ::fnmatch(pattern.c_str(), name.c_str(), 0) == 0;
}

bool path_matches(const std::string& pattern, const std::string& path) {
  const auto parts = text::split(path, '/');
  // Whether what was looked at of the pattern takes the first so many parts of the path.
  std::vector<bool> takes(parts.size() + 1, false);
  takes[0] = true;
  for (const auto& word : text::split(pattern, '/')) {
    std::vector<bool> then(parts.size() + 1, false);
    for (std::size_t i = 0; i <= parts.size(); ++i) {
      if (word == "**")
        then[i] = takes[i] || (i > 0 && then[i - 1]);
      else
        then[i] = i > 0 && takes[i - 1] && matches(word, parts[i - 1]);
    }
    takes = std::move(then);
  }
  return takes.back();
}

namespace {
std::mutex place_guard;
std::string place_of_scratch_folders;
}  // namespace

void put_scratch_folders_in(const std::string& folder) {
  const std::lock_guard lock(place_guard);
  place_of_scratch_folders = folder;
}

namespace {
// Calls `change` with a name for what lies at `path`, if it may be written to: the same file, wherever the links on the
// way lead a moment later.
template <class F>
bool change_what_lies_at(const std::string& path, int flags, F&& change) {
  const int fd = ::open(path.c_str(), O_PATH | O_CLOEXEC | flags);
  if (fd < 0) return false;
  std::error_code error;
  const std::string handle = "/proc/self/fd/" + std::to_string(fd);
  const bool good = may_be_written(fs::read_symlink(handle, error).string()) && change(handle, fd) == 0;
  ::close(fd);
  return good;
}
}  // namespace

bool set_mode(const std::string& path, unsigned mode) {
  return change_what_lies_at(path, 0, [&](const std::string& handle, int) { return ::chmod(handle.c_str(), mode); });
}

bool set_time(const std::string& path, std::optional<std::int64_t> time, bool the_link) {
  constexpr std::int64_t second = 1'000'000'000;
  timespec times[2] = {};
  for (auto& one : times) one = time ? timespec{*time / second, *time % second} : timespec{0, UTIME_NOW};
  if (!the_link) {
    return change_what_lies_at(
        path, 0, [&](const std::string& handle, int) { return ::utimensat(AT_FDCWD, handle.c_str(), times, 0); });
  }
  return change_what_lies_at(path, O_NOFOLLOW, [&](const std::string&, int fd) {
    const int done = ::utimensat(fd, "", times, AT_EMPTY_PATH);
    // Before Linux 5.8; such a kernel has no limit for writing either.
    return done != 0 && errno == EINVAL ? ::utimensat(AT_FDCWD, path.c_str(), times, AT_SYMLINK_NOFOLLOW) : done;
  });
}

ScratchFolder::ScratchFolder(const std::string& label) {
  std::string where;
  {
    const std::lock_guard lock(place_guard);
    where = place_of_scratch_folders;
  }
  if (where.empty()) where = temporary_folder();
  std::string pattern = fmt::format("{}/{}{}-{}-XXXXXX", where, scratch_name, label, ::getpid());
  if (::mkdtemp(pattern.data()) == nullptr) cannot_write(pattern, errno);
  path_ = pattern;
}

ScratchFolder::~ScratchFolder() {
  std::error_code error;
  fs::remove_all(path_, error);
}

}  // namespace coctilis::files
