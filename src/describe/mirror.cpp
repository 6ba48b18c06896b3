#include "describe/mirror.h"

#include <dirent.h>
#include <fcntl.h>
#include <linux/fs.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <map>
#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/observed.h"
#include "base/text.h"
#include "survey/survey.h"

namespace coctilis::describe {

namespace {

// A file as it was when it was copied.
struct Entry {
  std::uint64_t size = 0;
  std::int64_t modified = 0;  // in the tree
  std::int64_t given = 0;     // in the mirror
  std::string hash;           // of a link: where it points
};
using Manifest = std::map<std::string, Entry>;

std::int64_t time_of(const struct stat& info) {
  return static_cast<std::int64_t>(info.st_mtim.tv_sec) * 1'000'000'000 + info.st_mtim.tv_nsec;
}
void set_time(const std::string& path, std::int64_t time) {
  const timespec times[2] = {{time / 1'000'000'000, time % 1'000'000'000},
                             {time / 1'000'000'000, time % 1'000'000'000}};
  ::utimensat(AT_FDCWD, path.c_str(), times, AT_SYMLINK_NOFOLLOW);
}

std::string manifest_path(const std::string& to) { return to + ".mirrored"; }

Manifest read_manifest(const std::string& path) {
  Manifest out;
  const auto content = files::read(path);
  if (!content) return out;
  for (std::size_t at = 0; at < content->size();) {
    const auto end = content->find('\0', at);
    const auto next = end == std::string::npos ? end : content->find('\n', end);
    if (next == std::string::npos) break;
    const auto words = text::words(std::string_view(*content).substr(end + 1, next - end - 1));
    if (words.size() == 4)
      out[content->substr(at, end - at)] = {std::strtoull(words[0].c_str(), nullptr, 10),
                                            std::strtoll(words[1].c_str(), nullptr, 10),
                                            std::strtoll(words[2].c_str(), nullptr, 10), words[3]};
    at = next + 1;
  }
  return out;
}

class Mirror {
 public:
  Mirror(const std::string& tree, const std::string& to)
      : tree_(tree), to_(to), before_(read_manifest(manifest_path(to))) {}

  Mirrored run() {
    files::make_folder(to_);
    folder("");
    for (const auto& [path, entry] : before_) {
      if (now_.contains(path)) continue;
      ++out_.removed;
      ::unlink((to_ + "/" + path).c_str());
    }
    ship_ready_made();
    std::string text;
    for (const auto& [path, entry] : now_)
      text += path + '\0' + fmt::format("{} {} {} {}\n", entry.size, entry.modified, entry.given, entry.hash);
    files::write_if_different(manifest_path(to_), text);
    out_.files = now_.size();
    return out_;
  }

 private:
  void folder(const std::string& relative) {
    const std::string path = relative.empty() ? tree_ : tree_ + "/" + relative;
    DIR* stream = ::opendir(path.c_str());
    if (stream == nullptr) return;
    struct Found {
      std::string name;
      struct stat info;
    };
    std::vector<Found> found;
    std::set<std::string> names;
    while (const dirent* entry = ::readdir(stream)) {
      const std::string name = entry->d_name;
      struct stat info {};
      if (name == "." || name == ".." || ::fstatat(::dirfd(stream), entry->d_name, &info, AT_SYMLINK_NOFOLLOW) != 0)
        continue;
      names.insert(name);
      found.push_back({name, info});
    }
    ::closedir(stream);
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    for (const auto& [name, info] : found) {
      const std::string below = relative.empty() ? name : relative + "/" + name;
      if (name == ".git" || name == ".hg" || name == ".svn" || files::is_below(to_, tree_ + "/" + below)) continue;
      if (S_ISDIR(info.st_mode)) {
        const auto mark = files::read(tree_ + "/" + below + "/.gitignore");
        if (mark && mark->starts_with(survey::kiln_mark)) continue;
        struct stat there {};
        const std::string place = to_ + "/" + below;
        if (::lstat(place.c_str(), &there) == 0 && !S_ISDIR(there.st_mode)) ::unlink(place.c_str());
        files::make_folder(place);
        ::chmod(place.c_str(), (info.st_mode & 0777U) | 0700U);
        folder(below);
      } else if (S_ISLNK(info.st_mode)) {
        link(below, info);
      } else if (S_ISREG(info.st_mode) && !left_by_a_build(name, names)) {
        file(below, info);
      }
    }
  }

  // An object beside its source was left by a build inside the tree, with whatever options that had.
  static bool left_by_a_build(const std::string& name, const std::set<std::string>& names) {
    const auto dot = name.rfind('.');
    if (dot == std::string::npos ||
        (name.substr(dot) != ".o" && name.substr(dot) != ".lo" && name.substr(dot) != ".obj"))
      return false;
    const std::string base = name.substr(0, dot);
    return std::any_of(std::begin(source_endings), std::end(source_endings),
                       [&](const char* ending) { return names.contains(base + ending); });
  }
  static constexpr const char* source_endings[] = {".c", ".cc", ".cpp", ".cxx", ".C", ".S", ".s", ".f", ".f90", ".m"};

  void link(const std::string& below, const struct stat& info) {
    char buffer[4096];
    const ssize_t length = ::readlink((tree_ + "/" + below).c_str(), buffer, sizeof buffer);
    if (length <= 0) return;
    std::string to(buffer, static_cast<std::size_t>(length));
    const std::string folder = std::filesystem::path(tree_ + "/" + below).parent_path().string();
    const std::string whole = files::absolute(to, folder);
    // Within the tree it leads to the mirror's own; what leaves the tree is still found.
    if (to.starts_with('/') && files::is_below(whole, tree_))
      to = to_ + "/" + files::below(whole, tree_);
    else if (!to.starts_with('/') && !files::is_below(whole, tree_))
      to = whole;
    const std::string place = to_ + "/" + below;
    Entry entry{0, time_of(info), 0, hash_bytes(to).text()};
    const auto it = before_.find(below);
    struct stat there {};
    if (it == before_.end() || it->second.hash != entry.hash || ::lstat(place.c_str(), &there) != 0) {
      ::unlink(place.c_str());
      if (::symlink(to.c_str(), place.c_str()) != 0) cannot(place);
      ++out_.copied;
    }
    now_[below] = entry;
  }

  void file(const std::string& below, const struct stat& info) {
    const std::string place = to_ + "/" + below;
    const auto it = before_.find(below);
    struct stat there {};
    const bool is_there = ::lstat(place.c_str(), &there) == 0;
    Entry entry{static_cast<std::uint64_t>(info.st_size), time_of(info), time_of(info), {}};
    if (it != before_.end() && it->second.size == entry.size && it->second.modified == entry.modified && is_there) {
      now_[below] = it->second;
      return;
    }
    const auto hash = hash_file(tree_ + "/" + below);
    if (!hash) return;  // it cannot be read: the survey tells of it
    entry.hash = hash->text();
    if (it != before_.end() && it->second.hash == entry.hash && is_there) {
      // Only touched.
      entry.given = it->second.given;
      now_[below] = entry;
      return;
    }
    copy(tree_ + "/" + below, place, info);
    fresh_.push_back(below);
    ++out_.copied;
    now_[below] = entry;
  }

  static void copy(const std::string& from, const std::string& to, const struct stat& info) {
    ::unlink(to.c_str());
    const int in = ::open(from.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
    if (in < 0) return;
    const int out = ::open(to.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, (info.st_mode & 0777U) | 0600U);
    if (out < 0) {
      ::close(in);
      cannot(to);
    }
    bool good = ::ioctl(out, FICLONE, in) == 0;
    if (!good) {
      good = true;
      for (;;) {
        const ssize_t n = ::copy_file_range(in, nullptr, out, nullptr, 1U << 30U, 0);
        if (n == 0) break;
        if (n > 0) continue;
        if (errno == EINTR) continue;
        // Not between these file systems.
        char buffer[65536];
        for (;;) {
          const ssize_t got = ::read(in, buffer, sizeof buffer);
          if (got <= 0) {
            good = got == 0;
            break;
          }
          if (::write(out, buffer, static_cast<std::size_t>(got)) != got) {
            good = false;
            break;
          }
        }
        break;
      }
    }
    ::close(in);
    ::fchmod(out, (info.st_mode & 0777U) | 0600U);
    ::close(out);
    if (!good) cannot(to);
    set_time(to, time_of(info));
  }

  [[noreturn]] static void cannot(const std::string& path) {
    throw Fault({Exit::kiln,
                 {path, 0, 0},
                 "the copy of the tree cannot be written",
                 std::strerror(errno),
                 "make room on the disk, or choose another kiln with --kiln DIR",
                 {}});
  }

  // What a release ships ready made is newer than what it is made from, whatever the times say: unpacking, patching
  // and cloning mix them up.
  void ship_ready_made() {
    if (fresh_.empty() || !before_.empty()) return;
    std::int64_t newest = 0;
    for (const auto& [path, entry] : now_) newest = std::max(newest, entry.modified);
    // Not later than now: what the build makes of it would be older. A tree may have been written this very moment.
    constexpr std::int64_t millisecond = 1'000'000;
    timespec clock{};
    ::clock_gettime(CLOCK_REALTIME, &clock);
    const std::int64_t age = std::int64_t{clock.tv_sec} * 1000 * millisecond + clock.tv_nsec - newest;
    const std::int64_t step = std::clamp(age / 4, millisecond, 1000 * millisecond);
    for (const auto& path : fresh_) {
      const std::string name = path.substr(path.rfind('/') + 1);
      const auto dot = name.rfind('.');
      const std::string base = path.substr(0, path.size() - name.size()) + name.substr(0, dot);
      std::int64_t time = 0;
      if (name == "aclocal.m4")
        time = newest + step;
      else if (name == "configure" || name == "Makefile.in" || name == "config.h.in" || name.ends_with(".h.in") ||
               name == "config.status" || is_template(path))
        time = newest + 2 * step;
      else if (name.ends_with(".info") ||
               (dot != std::string::npos && dot + 2 == name.size() && name[dot + 1] >= '1' && name[dot + 1] <= '8') ||
               is_manual(base, name.substr(std::min(dot, name.size()))) || name == "stamp-vti" ||
               name == "version.texi" || name.starts_with("stamp-"))
        time = newest + 3 * step;
      else if (dot != std::string::npos &&
               (now_.contains(base + ".y") || now_.contains(base + ".l") || now_.contains(base + ".yy") ||
                now_.contains(base + ".ll")) &&
               name[dot + 1] != 'y' && name[dot + 1] != 'l')
        time = newest + 2 * step;
      if (time == 0) continue;
      set_time(to_ + "/" + path, time);
      now_[path].given = time;
    }
  }

  // A manual in another form than the one that it is written in.
  [[nodiscard]] bool is_manual(const std::string& base, const std::string& ending) const {
    if (ending != ".html" && ending != ".pdf" && ending != ".ps" && ending != ".dvi" && ending != ".txt") return false;
    return std::any_of(std::begin(manual_endings), std::end(manual_endings),
                       [&](const char* source) { return now_.contains(base + source); });
  }
  static constexpr const char* manual_endings[] = {".texi", ".texinfo", ".txi", ".xml", ".adoc", ".md", ".rst"};

  // A template that a configure script fills in bears all kinds of names; its first line tells what it was made from.
  [[nodiscard]] bool is_template(const std::string& path) const {
    if (!path.ends_with("in")) return false;
    std::ifstream file(to_ + "/" + path, std::ios::binary);
    std::string first;
    std::getline(file, first);
    return first.find("enerated from configure.") != std::string::npos ||
           first.find("enerated automatically from configure.") != std::string::npos;
  }

  const std::string tree_;
  const std::string to_;
  Manifest before_;
  Manifest now_;
  std::vector<std::string> fresh_;
  Mirrored out_;
};

}  // namespace

Result<Mirrored> mirror(const std::string& tree, const std::string& to) {
  observe::follows(tree, to);
  const observe::Apart apart;
  return guarded("copying the tree", [&] { return Mirror(tree, to).run(); });
}

std::vector<std::string> mirrored_files(const std::string& to) {
  std::vector<std::string> out;
  for (const auto& [path, entry] : read_manifest(manifest_path(to))) out.push_back(path);
  return out;
}

std::vector<std::string> made_in_mirror(const std::string& to) {
  const Manifest manifest = read_manifest(manifest_path(to));
  std::vector<std::string> out;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(to, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    struct stat info {};
    const std::string path = it->path().string();
    if (::lstat(path.c_str(), &info) != 0 || S_ISDIR(info.st_mode)) continue;
    const auto known = manifest.find(files::below(path, to));
    if (known != manifest.end() && (S_ISLNK(info.st_mode) || known->second.given == time_of(info))) continue;
    out.push_back(path);
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace coctilis::describe
