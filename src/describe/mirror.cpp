#include "describe/mirror.h"

#include <dirent.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <linux/fs.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <map>
#include <optional>
#include <set>

#include "base/disk.h"
#include "base/file_stamp.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/observed.h"
#include "base/text.h"
#include "survey/survey.h"

namespace coctilis::describe {

namespace {

// A file as the system tells of it; devices may be numbered anew.
using State = FileStamp;

// A file as it was when it was copied.
struct Entry {
  State here;               // in the tree
  State there;              // in the mirror, when it had been put there
  std::int64_t looked = 0;  // when: times prove nothing for one that was younger then
  std::string hash;         // of a link: of where it points
};
using Manifest = std::map<std::string, Entry>;

State state_of(const struct stat& info) {
  State out = FileStamp::of(info);
  out.device = 0;
  return out;
}
// The state of what lies there; nothing when nothing does.
std::optional<State> state_at(const std::string& path) {
  struct stat info {};
  if (::lstat(path.c_str(), &info) != 0) return std::nullopt;
  return state_of(info);
}
void set_time(const std::string& path, std::int64_t time) { files::set_time(path, time, true); }

// What is kept of a mirror lies beside it, where nothing that the tree runs writes; but for scripts, before which a
// program of ours brings the mirror in step among the tree's own (script/reader.cpp).
std::string kept_beside(const std::string& to, const char* what) {
  const observe::Apart own;
  const std::string watched = std::filesystem::path(to).parent_path().string() + "/watched";
  return files::is_folder(watched) ? watched + "/" + what : to + "." + what;
}
std::string manifest_path(const std::string& to) { return kept_beside(to, "mirrored"); }
std::string given_path(const std::string& to) { return kept_beside(to, "given"); }

// As FileStamp::text writes it, from the word at `at` on.
bool read_state(const std::vector<std::string>& words, std::size_t at, State& out) {
  if (at + 5 > words.size()) return false;
  out = {std::strtoull(words[at].c_str(), nullptr, 10),
         0,
         std::strtoull(words[at + 1].c_str(), nullptr, 10),
         std::strtoll(words[at + 2].c_str(), nullptr, 10),
         std::strtoll(words[at + 3].c_str(), nullptr, 10),
         static_cast<std::uint32_t>(std::strtoul(words[at + 4].c_str(), nullptr, 8)),
         0};
  return true;
}

// Lists of files with what is known of them: a line "path NUL words" each, and the hash of all at the end.
using Lines = std::vector<std::pair<std::string, std::vector<std::string>>>;
std::optional<Lines> read_lines(const std::string& path) {
  const auto content = files::read(path);
  constexpr std::size_t hash_length = 33;  // with its line end
  if (!content || content->size() < hash_length) return std::nullopt;
  const std::string_view text = std::string_view(*content).substr(0, content->size() - hash_length);
  if (hash_bytes(text).text() + "\n" != content->substr(text.size())) return std::nullopt;
  Lines out;
  for (std::size_t at = 0; at < text.size();) {
    const auto end = text.find('\0', at);
    const auto next = end == std::string_view::npos ? end : text.find('\n', end);
    if (next == std::string_view::npos) return std::nullopt;
    const std::string_view name = text.substr(at, end - at);
    // Commands of the tree may have written it.
    if (name.starts_with('/') || ("/" + std::string(name) + "/").find("/../") != std::string::npos) return std::nullopt;
    out.emplace_back(name, text::words(text.substr(end + 1, next - end - 1)));
    at = next + 1;
  }
  return out;
}
void write_lines(const std::string& path, std::string text) {
  text += hash_bytes(text).text() + "\n";
  files::write_if_different(path, text);
}

// Nothing: there is none, or it cannot be believed.
std::optional<Manifest> read_manifest(const std::string& path) {
  const auto lines = read_lines(path);
  if (!lines) return std::nullopt;
  Manifest out;
  for (const auto& [name, words] : *lines) {
    Entry entry;
    if (words.size() != 12 || !read_state(words, 0, entry.here) || !read_state(words, 5, entry.there))
      return std::nullopt;
    entry.looked = std::strtoll(words[10].c_str(), nullptr, 10);
    entry.hash = words[11];
    out.emplace(name, std::move(entry));
  }
  return out;
}

class Mirror {
 public:
  using MadeByStep = std::function<bool(const std::string&)>;
  Mirror(const std::string& tree, const std::string& to, MadeByStep made_by_step = {})
      : tree_(tree), to_(to), made_by_step_(std::move(made_by_step)) {}

  Mirrored run() {
    if (auto known = read_manifest(manifest_path(to_))) {
      before_ = std::move(*known);
    } else {
      // Nobody knows what in it came from where.
      std::error_code error;
      std::filesystem::remove_all(to_, error);
      std::filesystem::remove(given_path(to_), error);
      first_ = true;
    }
    files::make_folder(to_);
    folder("");
    for (const auto& [path, entry] : before_) {
      if (now_.contains(path)) continue;
      ++out_.removed;
      ::unlink((to_ + "/" + path).c_str());
      // Folders that the tree has no more go as well, as far as the build has put nothing there.
      for (auto slash = path.rfind('/'); slash != std::string::npos && slash > 0; slash = path.rfind('/', slash - 1)) {
        const std::string above = path.substr(0, slash);
        if (folders_.contains(above) || ::rmdir((to_ + "/" + above).c_str()) != 0) break;
      }
    }
    date_fresh_files();
    std::string text;
    for (const auto& [path, entry] : now_)
      text +=
          path + '\0' + fmt::format("{} {} {} {}\n", entry.here.text(), entry.there.text(), entry.looked, entry.hash);
    write_lines(manifest_path(to_), std::move(text));
    out_.files = now_.size();
    return out_;
  }

 private:
  void folder(const std::string& relative) {
    const std::string path = relative.empty() ? tree_ : tree_ + "/" + relative;
    DIR* stream = ::opendir(path.c_str());
    if (stream == nullptr) {
      if (errno == ENOENT) return;  // it went this very moment
      throw Fault({Exit::description,
                   {path, 0, 0},
                   "a folder of the tree cannot be read",
                   std::strerror(errno),
                   "make it readable, or take it out of the tree",
                   {}});
    }
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
        if (survey::is_kiln(tree_ + "/" + below)) continue;
        struct stat there {};
        const std::string place = to_ + "/" + below;
        if (::lstat(place.c_str(), &there) == 0 && !S_ISDIR(there.st_mode)) {
          ::unlink(place.c_str());
          there.st_mode = 0;
        }
        folders_.insert(below);
        files::make_folder(place);
        // One that need not be touched is as it was for who looks at its times.
        const mode_t mode = (info.st_mode & 0777U) | 0700U;
        if ((there.st_mode & 0777U) != mode) files::set_mode(place, mode);
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
    make_way(place);
    Entry entry{state_of(info), {}, 0, hash_bytes(to).text()};
    const auto it = before_.find(below);
    const auto there = state_at(place);
    if (it != before_.end() && it->second.hash == entry.hash && there) {
      entry.there = it->second.there;
    } else {
      ::unlink(place.c_str());
      if (::symlink(to.c_str(), place.c_str()) != 0) cannot(place);
      entry.there = state_at(place).value_or(State{});
      ++out_.copied;
    }
    now_[below] = entry;
  }

  // A folder that stands where the tree has a file now.
  static void make_way(const std::string& place) {
    std::error_code error;
    if (std::filesystem::symlink_status(place, error).type() == std::filesystem::file_type::directory)
      std::filesystem::remove_all(place, error);
  }

  void file(const std::string& below, const struct stat& info) {
    const std::string place = to_ + "/" + below;
    const auto it = before_.find(below);
    Entry entry{state_of(info), {}, file_clock(), {}};
    const auto there = state_at(place);
    const bool is_there = there && S_ISREG(there->mode);
    const bool stays = it != before_.end() && is_there && (*there == it->second.there || may_differ(place));
    if (stays && it->second.here == entry.here && entry.here.tells_since(it->second.looked)) {
      now_[below] = it->second;
      return;
    }
    const auto hash = hash_file(tree_ + "/" + below);
    entry.hash = hash ? hash->text() : "unreadable";
    if (stays && it->second.hash == entry.hash) {
      // Only touched, or given another mode.
      entry.there = it->second.there;
      const auto mode = mode_for(info, hash.has_value());
      if ((it->second.here.mode & 0777U) != (info.st_mode & 0777U) && (there->mode & 0777U) != mode) {
        files::set_mode(place, mode);
        if (const auto changed = state_at(place); changed && *there == it->second.there) entry.there = *changed;
      }
      now_[below] = entry;
      return;
    }
    if (!is_there) make_way(place);
    if (hash)
      copy(tree_ + "/" + below, place, info);
    else
      stand_in(place);
    fresh_.push_back(below);
    ++out_.copied;
    now_[below] = entry;
  }

  // Whether a copy that is not as it was put there may be so.
  [[nodiscard]] bool may_differ(const std::string& place) {
    if (!made_by_step_) return true;
    if (!given_) given_.emplace(to_);
    return given_->was_noted(place) || made_by_step_(place);
  }

  static mode_t mode_for(const struct stat& info, bool readable) {
    return readable ? (info.st_mode & 0777U) | 0600U : 0;
  }

  // For a file that cannot be read: whoever wants to read it is told so.
  static void stand_in(const std::string& to) {
    ::unlink(to.c_str());
    const int out = disk().open(to.c_str(), O_WRONLY | O_CREAT | O_EXCL, 0);
    if (out < 0) cannot(to, errno);
    ::close(out);
  }

  static void copy(const std::string& from, const std::string& to, const struct stat& info) {
    ::unlink(to.c_str());
    const int in = ::open(from.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
    if (in < 0) return;  // it went this very moment, or was changed: the next run sees it
    const int out = disk().open(to.c_str(), O_WRONLY | O_CREAT | O_EXCL, mode_for(info, true));
    if (out < 0) {
      const int error = errno;
      ::close(in);
      cannot(to, error);
    }
    int error = ::ioctl(out, FICLONE, in) == 0 ? 0 : copy_content(in, out);
    ::close(in);
    ::fchmod(out, mode_for(info, true));
    // Some file systems only say at the end that there was no room.
    if (::close(out) != 0 && error == 0) error = errno;
    if (error != 0) cannot(to, error);
    set_time(to, std::min(nanoseconds(info.st_mtim), wall_clock()));
  }

  // Returns 0 or what went wrong.
  static int copy_content(int in, int out) {
    for (;;) {
      const ssize_t n = ::copy_file_range(in, nullptr, out, nullptr, 1U << 30U, 0);
      if (n == 0) return 0;
      if (n > 0 || errno == EINTR) continue;
      if (errno == ENOSPC || errno == EDQUOT || errno == EIO) return errno;
      break;  // not between these file systems
    }
    char buffer[65536];
    for (;;) {
      const ssize_t n = ::read(in, buffer, sizeof buffer);
      if (n < 0 && errno == EINTR) continue;
      if (n < 0) return errno;
      if (n == 0) return 0;
      if (const int error = disk().write_all(out, {buffer, static_cast<std::size_t>(n)}); error != 0) return error;
    }
  }

  [[noreturn]] static void cannot(const std::string& path, int error = errno) {
    throw Fault({Exit::kiln,
                 {path, 0, 0},
                 "the copy of the tree cannot be written",
                 std::strerror(error),
                 remedy_for_writing(error),
                 {}});
  }

  // What a release ships ready made is newer than what it is made from, whatever the times say: unpacking, patching and
  // cloning mix them up. What is changed later is as new as this moment, all of it alike.
  void date_fresh_files() {
    if (fresh_.empty()) return;
    constexpr std::int64_t millisecond = 1'000'000;
    const std::int64_t now = wall_clock();
    std::int64_t newest = now - 4 * millisecond;
    std::int64_t step = millisecond;
    if (first_) {
      newest = 0;
      for (const auto& [path, entry] : now_) newest = std::max(newest, std::min(entry.here.modified, now));
      // Not later than now: what the build makes of it would be older. A tree may have been written this very moment.
      step = std::clamp((now - newest) / 4, millisecond, 1000 * millisecond);
    }
    for (const auto& path : fresh_) {
      const std::int64_t rank = rank_of(path);
      if (rank > 0 || !first_) set_time(to_ + "/" + path, newest + rank * step);
      now_[path].there = state_at(to_ + "/" + path).value_or(State{});
    }
  }

  // How far behind its sources a file is made that a release ships; 0: it is a source itself.
  [[nodiscard]] std::int64_t rank_of(const std::string& path) const {
    const std::string name = path.substr(path.rfind('/') + 1);
    const auto dot = name.rfind('.');
    const std::string base = path.substr(0, path.size() - name.size()) + name.substr(0, dot);
    if (name == "aclocal.m4") return 1;
    if (name == "configure" || name == "Makefile.in" || name == "config.h.in" || name.ends_with(".h.in") ||
        name == "config.status" || (name.ends_with(".in") && now_.contains(base + ".am")) || is_template(path))
      return 2;
    if (name.ends_with(".info") ||
        (dot != std::string::npos && dot + 2 == name.size() && name[dot + 1] >= '1' && name[dot + 1] <= '8') ||
        is_manual(base, name.substr(std::min(dot, name.size()))) || name == "stamp-vti" || name == "version.texi" ||
        name.starts_with("stamp-"))
      return 3;
    if (dot != std::string::npos &&
        (now_.contains(base + ".y") || now_.contains(base + ".l") || now_.contains(base + ".yy") ||
         now_.contains(base + ".ll")) &&
        name[dot + 1] != 'y' && name[dot + 1] != 'l')
      return 2;
    return 0;
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
  const MadeByStep made_by_step_;
  std::optional<Given> given_;
  bool first_ = false;
  Manifest before_;
  Manifest now_;
  std::set<std::string> folders_;
  std::vector<std::string> fresh_;
  Mirrored out_;
};

}  // namespace

Result<Mirrored> mirror(const std::string& tree, const std::string& to,
                        const std::function<bool(const std::string&)>& made_by_step) {
  observe::follows(tree, to);
  const observe::Apart apart;
  return guarded("copying the tree", [&] { return Mirror(tree, to, made_by_step).run(); });
}

std::vector<std::string> mirrored_files(const std::string& to) {
  std::vector<std::string> out;
  for (const auto& [path, entry] : read_manifest(manifest_path(to)).value_or(Manifest{})) out.push_back(path);
  return out;
}

namespace {
// Calls `f(path, state)` for everything below a mirror that is no folder and is not as it came from the tree.
template <class F>
void each_made(const std::string& to, F&& f) {
  const Manifest manifest = read_manifest(manifest_path(to)).value_or(Manifest{});
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(to, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    const std::string path = it->path().string();
    const auto state = state_at(path);
    if (!state || S_ISDIR(state->mode)) continue;
    const auto known = manifest.find(files::below(path, to));
    if (known != manifest.end() && (S_ISLNK(state->mode) || known->second.there.modified == state->modified)) continue;
    f(path, *state);
  }
}
}  // namespace

std::vector<std::string> made_in_mirror(const std::string& to) {
  std::vector<std::string> out;
  each_made(to, [&](const std::string& path, const State&) { out.push_back(path); });
  std::sort(out.begin(), out.end());
  return out;
}

Result<Mirrored> take_away_what_was_made(const std::string& tree, const std::string& to) {
  return guarded("cleaning the copy of the tree", [&] {
    const observe::Apart apart;
    for (const auto& path : made_in_mirror(to)) ::unlink(path.c_str());
    // Folders of the tree may be empty; others go.
    std::vector<std::string> folders;
    std::error_code error;
    for (auto it = std::filesystem::recursive_directory_iterator(to, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      if (it->is_directory(error) && !it->is_symlink(error)) folders.push_back(it->path().string());
    }
    std::sort(folders.rbegin(), folders.rend());
    for (const auto& folder : folders) {
      if (!files::is_folder(tree + "/" + files::below(folder, to))) ::rmdir(folder.c_str());
    }
    return Mirror(tree, to).run();
  });
}

// A file that was given, as it was then.
struct Noted {
  FileStamp state;
  std::string hash;  // of its content
};

namespace {

using Notes = std::map<std::string, Noted>;

Notes read_given(const std::string& mirror) {
  Notes out;
  const observe::Apart apart;
  for (const auto& [path, words] : read_lines(given_path(mirror)).value_or(Lines{})) {
    Noted noted;
    if (words.size() != 6 || !read_state(words, 0, noted.state)) continue;
    noted.hash = words[5];
    out.emplace(path, std::move(noted));
  }
  return out;
}
void write_given(const std::string& mirror, const Notes& all) {
  const observe::Apart apart;
  std::string text;
  for (const auto& [path, noted] : all) text += path + '\0' + noted.state.text() + " " + noted.hash + "\n";
  write_lines(given_path(mirror), std::move(text));
}
std::string hash_at(const std::string& path) {
  const observe::Apart apart;
  const auto hash = hash_file(path);
  return hash ? hash->text() : "none";
}

}  // namespace

struct Given::Files {
  std::map<std::string, FileStamp> by_tree;
  std::map<std::string, Noted> noted;
};

Given::Given(const std::string& mirror) : mirror_(mirror) {}
Given::~Given() = default;

const Given::Files& Given::files() const {
  if (!files_) {
    const observe::Apart apart;
    files_ = std::make_unique<Files>();
    for (const auto& [name, entry] : read_manifest(manifest_path(mirror_)).value_or(Manifest{}))
      files_->by_tree.emplace(name, entry.there);
    files_->noted = read_given(mirror_);
  }
  return *files_;
}

bool Given::contains(const std::string& path) const {
  const auto is = state_at(path);
  if (!is) return false;
  const std::string name = files::below(path, mirror_);
  const auto by_tree = files().by_tree.find(name);
  const auto noted = files().noted.find(name);
  return (by_tree != files().by_tree.end() && by_tree->second == *is) ||
         (noted != files().noted.end() && noted->second.state == *is);
}

std::function<bool(const std::string&)> given_in(const std::string& mirror) {
  return [given = std::make_shared<Given>(mirror)](const std::string& path) { return given->contains(path); };
}

bool Given::was_noted(const std::string& path) const {
  const auto& noted = files().noted;
  const auto it = noted.find(files::below(path, mirror_));
  return it != noted.end() && hash_at(path) == it->second.hash;
}

void Given::note_since(const std::string& mirror, std::int64_t when) {
  const observe::Apart apart;
  Notes all;
  each_made(mirror, [&](const std::string& path, const State& state) {
    if (state.changed >= when) all[files::below(path, mirror)] = {state, hash_at(path)};
  });
  write_given(mirror, all);
}

std::vector<std::string> Given::changed() const {
  std::vector<std::string> out;
  for (const auto& [name, noted] : read_given(mirror_)) {
    const std::string path = mirror_ + "/" + name;
    observe::content(path);
    const auto is = state_at(path);
    if (!is || (*is != noted.state && hash_at(path) != noted.hash)) out.push_back(path);
  }
  return out;
}

}  // namespace coctilis::describe
