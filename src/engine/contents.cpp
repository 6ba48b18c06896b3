#include "engine/contents.h"

#include <dirent.h>
#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cstring>
#include <ctime>
#include <optional>

#include "base/files.h"
#include "base/hash.h"
#include "base/observed.h"

namespace coctilis::engine {

Moment Moment::now() {
  timespec time{};
  ::clock_gettime(CLOCK_MONOTONIC, &time);
  return {file_clock(), nanoseconds(time)};
}

namespace {

constexpr std::string_view has_include = "__has_include";
constexpr off_t largest_text = 8 << 20;

// Later changes of it would show in its times.
bool times_tell(const FileState& state) { return state.stamp.tells_since(state.looked); }

// The hash of a file that is open; `asks` is set when its text asks for names of headers.
std::optional<Hash> hash_of(int fd, const struct stat& info, bool& asks) {
  std::string text;
  if (info.st_size > largest_text) return std::nullopt;
  text.resize(static_cast<std::size_t>(info.st_size) + 1);
  std::size_t have = 0;
  for (;;) {
    const ssize_t n = ::read(fd, text.data() + have, text.size() - have);
    if (n < 0) return std::nullopt;
    if (n == 0) break;
    have += static_cast<std::size_t>(n);
    if (have == text.size()) {
      if (have > static_cast<std::size_t>(largest_text)) return std::nullopt;
      text.resize(2 * have);
    }
  }
  text.resize(have);
  asks = ::memmem(text.data(), text.size(), has_include.data(), has_include.size()) != nullptr;
  return hash_bytes(text);
}

}  // namespace

Contents::Now Contents::look(PathId id) {
  Now out;
  out.seen = Moment::now().steady;
  const std::string path(journal_.path(id));
  struct stat info {};
  if (::lstat(path.c_str(), &info) != 0) {
    if (errno != ENOENT && errno != ENOTDIR) out.state = Now::State::unreadable;
    return out;
  }
  if (S_ISLNK(info.st_mode)) {
    const observe::Apart apart;
    std::error_code error;
    out.link = hash_bytes("link " + std::filesystem::read_symlink(path, error).string());
    if (::stat(path.c_str(), &info) != 0) return out;  // it leads nowhere
  }
  out.state = Now::State::there;
  out.mode = info.st_mode;
  out.changed = nanoseconds(info.st_ctim);
  out.modified = nanoseconds(info.st_mtim);
  out.is_folder = S_ISDIR(info.st_mode);
  if (!S_ISREG(info.st_mode) && !out.is_folder) {
    out.hash = Hash{1, static_cast<std::uint64_t>(info.st_rdev) + 2};
    return out;
  }
  if (const FileState* before = journal_.file(id);
      before != nullptr && before->stamp == FileStamp::of(info) && times_tell(*before)) {
    out.hash = before->hash;
    out.asks_for_names = before->asks_for_names != 0;
    return out;
  }
  FileState state;
  state.looked = file_clock();
  const observe::Apart apart;
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (fd < 0 || ::fstat(fd, &info) != 0) {
    if (fd >= 0) ::close(fd);
    out.state = Now::State::unreadable;
    return out;
  }
  bool asks = false;
  std::optional<Hash> hash;
  if (S_ISREG(info.st_mode)) hash = hash_of(fd, info, asks);
  ::close(fd);
  if (!hash) hash = hash_file(path);
  if (!hash) {
    out.state = Now::State::unreadable;
    return out;
  }
  // An empty hash stands for what is not there.
  if (hash->empty()) hash->low = 1;
  out.hash = *hash;
  out.asks_for_names = asks;
  out.changed = nanoseconds(info.st_ctim);
  out.modified = nanoseconds(info.st_mtim);
  state.stamp = FileStamp::of(info);
  state.asks_for_names = asks ? 1 : 0;
  state.hash = *hash;
  journal_.put_file(id, state);
  return out;
}

const Contents::Now& Contents::now(PathId id) {
  if (id >= looked_.size()) looked_.resize(std::max<std::size_t>(id + 1, journal_.path_count()), 0);
  if (looked_[id] == 0) {
    known_.push_back(look(id));
    looked_[id] = static_cast<std::uint32_t>(known_.size());
  }
  return known_[looked_[id] - 1];
}

const Contents::Tree& Contents::tree(PathId id) {
  const auto [it, fresh] = trees_.try_emplace(id);
  if (!fresh) return it->second;
  Tree out;
  std::string text;
  add_tree(id, out, text, 0);
  // What is not there has an empty hash; what is there and holds nothing has none.
  const auto& is = now(id);
  if (is.state == Now::State::there && is.is_folder) out.hash = hash_bytes(text);
  if (out.unknown) out.hash = unknown_hash;
  return trees_[id] = std::move(out);
}

// Deeper folders than any tool makes are the work of somebody who wants this to end badly.
void Contents::add_tree(PathId id, Tree& into, std::string& text, int depth) {
  static constexpr int deepest = 200;
  const Now is = now(id);
  into.ids.push_back(id);
  text.append(std::to_string(is.mode)).push_back(' ');
  text.append(reinterpret_cast<const char*>(&is.hash), sizeof is.hash);
  text.append(reinterpret_cast<const char*>(&is.link), sizeof is.link);
  if (is.state == Now::State::unreadable) into.unknown = true;
  if (is.state != Now::State::there || !is.is_folder || !is.link.empty()) return;
  if (depth == deepest) {
    into.unknown = true;
    return;
  }
  const std::string folder(journal_.path(id));
  auto names = files::names_in(folder);
  std::sort(names.begin(), names.end());
  text.append(std::to_string(names.size())).push_back('\0');
  for (const auto& name : names) {
    text.append(name).push_back('\0');
    add_tree(journal_.id(folder + "/" + name), into, text, depth + 1);
  }
}

void Contents::forget_tree(PathId id) {
  if (const auto it = trees_.find(id); it != trees_.end()) {
    for (const PathId one : it->second.ids) forget(one);
  }
  forget(id);
}

void Contents::show(PathId id, Sights& sights) {
  const Now is = now(id);
  const std::string path(journal_.path(id));
  if (!is.link.empty()) sights.look(Sights::Kind::link, path);
  if (is.state == Now::State::absent)
    return sights.add(is.link.empty() ? Sights::Kind::absent : Sights::Kind::dangling, path, {});
  const FileState* state = journal_.file(id);
  // Devices and the like have no state.
  if (is.state != Now::State::there || state == nullptr || !times_tell(*state) || state->hash != is.hash)
    return sights.spoil();
  sights.add(Sights::Kind::file, path, state->stamp);
}

void Contents::forget(PathId id) {
  trees_.erase(id);
  if (id < looked_.size()) looked_[id] = 0;
}

std::int64_t Contents::modified(PathId id) {
  const Now& is = now(id);
  return is.state == Now::State::absent ? -1 : is.modified;
}

Hash Contents::hash_in_form(const Now& now, Form form) {
  if (now.state == Now::State::unreadable) return unknown_hash;
  if (now.state == Now::State::absent && form != Form::output) return {};
  switch (form) {
    case Form::presence: return Hash{1, now.is_folder ? 2U : 1U};
    case Form::program: {
      Hash out = now.hash;
      if ((now.mode & 0111U) != 0) out.high ^= 0x5bd1e995U;
      return out;
    }
    case Form::output: {
      // A folder that a step makes is there for others to put things in (see take_result).
      const Hash of = now.state == Now::State::absent ? Hash{} : now.is_folder ? Hash{1, 2} : now.hash;
      return now.link.empty() ? of : Hash{now.link.high ^ of.high, now.link.low ^ of.low};
    }
    case Form::content:
    case Form::tree:
    case Form::names: break;
  }
  return now.hash;
}

bool Contents::is(const Content& content) {
  if (form_of(content.form) == Form::tree)
    return content.hash != unknown_hash && tree(content.path).hash == content.hash;
  const Now& is = now(content.path);
  const Form form = form_of(content.form);
  if (form == Form::content && is.state == Now::State::there) return is.hash == content.hash;
  if (hash_in_form(is, form) != content.hash || content.hash == unknown_hash) return false;
  return form != Form::output || is.state != Now::State::there || !is.link.empty() ||
         (is.mode & 07777U) == content.form >> 8U;
}

Content Contents::take(PathId path, Form form) {
  if (form == Form::tree) return {path, static_cast<std::uint32_t>(form), tree(path).hash};
  const Now& is = now(path);
  auto bits = static_cast<std::uint32_t>(form);
  if (form == Form::output && is.state == Now::State::there && is.link.empty()) bits |= (is.mode & 07777U) << 8U;
  return {path, bits, hash_in_form(is, form)};
}

Content Contents::take_result(PathId path, bool told) {
  const Now& is = now(path);
  const bool holds = is.state == Now::State::there && is.is_folder && is.link.empty() &&
                     !files::names_in(std::string(journal_.path(path))).empty();
  return take(path, holds && !told ? Form::names : Form::output);
}

Content Contents::take_as_of(PathId path, Form form, const Moment& when) {
  Content out = take(path, form);
  const Now& is = now(path);
  if (form == Form::presence || is.state != Now::State::there || is.seen < when.steady) return out;
  const bool whole_seconds = tick_of(is.modified, is.changed) > 1'000'000'000;
  const std::int64_t may_be = is.changed + (whole_seconds ? tick_of(is.modified, is.changed) : 0);
  if (may_be >= when.wall) out.hash = unknown_hash;
  return out;
}

}  // namespace coctilis::engine
