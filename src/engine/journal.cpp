#include "engine/journal.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/files.h"
#include "base/result.h"

namespace coctilis::engine {

namespace {

constexpr std::string_view magic = "coctilis journal 3\n";

template <class T>
void put(std::string& out, const T& value) {
  out.append(reinterpret_cast<const char*>(&value), sizeof value);
}
template <class T>
bool get(std::string_view& in, T& value) {
  if (in.size() < sizeof value) return false;
  std::memcpy(&value, in.data(), sizeof value);
  in.remove_prefix(sizeof value);
  return true;
}
void put_pairs(std::string& out, const std::vector<std::pair<PathId, Hash>>& list) {
  put(out, static_cast<std::uint32_t>(list.size()));
  for (const auto& [id, hash] : list) {
    put(out, id);
    put(out, hash.high);
    put(out, hash.low);
  }
}
bool get_pairs(std::string_view& in, std::vector<std::pair<PathId, Hash>>& list, std::size_t paths) {
  std::uint32_t count = 0;
  if (!get(in, count) || in.size() / 20 < count) return false;
  list.resize(count);
  for (auto& [id, hash] : list) {
    if (!get(in, id) || !get(in, hash.high) || !get(in, hash.low) || id >= paths) return false;
  }
  return true;
}

}  // namespace

Journal::Journal(std::string path) : path_(std::move(path)) {
  load();
  fd_ = ::open(path_.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0666);
  if (fd_ < 0)
    throw Fault({Exit::kiln,
                 {path_, 0, 0},
                 "the journal cannot be written",
                 std::strerror(errno),
                 "make the kiln writable, or choose another with --kiln DIR",
                 {}});
  begin();
}

Journal::~Journal() {
  try {
    flush();
  } catch (const Fault&) {  // NOLINT: what is lost here is made again by the next run
  }
  if (fd_ >= 0) ::close(fd_);
}

void Journal::begin() {
  if (::lseek(fd_, 0, SEEK_END) == 0) buffer_.insert(0, magic);
}

void Journal::load() {
  const auto content = files::read(path_);
  if (!content || content->empty()) return;
  std::string_view rest = *content;
  std::size_t good = 0;
  if (rest.starts_with(magic)) {
    rest.remove_prefix(magic.size());
    good = magic.size();
    for (;;) {
      std::uint32_t length = 0;
      std::uint64_t sum = 0;
      if (!get(rest, length) || !get(rest, sum) || rest.size() < length) break;
      const std::string_view payload = rest.substr(0, length);
      if (hash_short(payload) != sum || !apply(payload)) break;
      rest.remove_prefix(length);
      good += sizeof length + sizeof sum + length;
      ++records_;
    }
  }
  // What follows the last whole record is the trace of a crash.
  if (good < content->size() && ::truncate(path_.c_str(), static_cast<off_t>(good)) != 0) {
    throw Fault({Exit::kiln,
                 {path_, 0, 0},
                 "the journal cannot be written",
                 std::strerror(errno),
                 "make the kiln writable, or choose another with --kiln DIR",
                 {}});
  }
}

bool Journal::apply(std::string_view payload) {
  if (payload.empty()) return false;
  const char type = payload.front();
  payload.remove_prefix(1);
  if (type == 'P') {
    ids_.emplace(std::string(payload), static_cast<PathId>(paths_.size()));
    paths_.emplace_back(payload);
    return true;
  }
  PathId id = 0;
  if (!get(payload, id) || id >= paths_.size()) return false;
  if (type == 'F') {
    FileState state;
    std::uint8_t settled = 0;
    if (!get(payload, state.size) || !get(payload, state.modified) || !get(payload, state.inode) ||
        !get(payload, state.hash.high) || !get(payload, state.hash.low) || !get(payload, settled))
      return false;
    state.settled = settled != 0;
    files_[id] = state;
    return true;
  }
  if (type == 'S') {
    StepRecord record;
    if (!get(payload, record.command.high) || !get(payload, record.command.low) || !get(payload, record.seconds) ||
        !get(payload, record.recorded) || !get_pairs(payload, record.inputs, paths_.size()) ||
        !get_pairs(payload, record.outputs, paths_.size())) {
      return false;
    }
    if (record.command.empty())
      steps_.erase(id);
    else
      steps_[id] = std::move(record);
    return true;
  }
  return false;
}

void Journal::append(const std::string& payload) {
  put(buffer_, static_cast<std::uint32_t>(payload.size()));
  put(buffer_, hash_short(payload));
  buffer_ += payload;
  ++records_;
}

void Journal::flush() {
  std::string_view rest = buffer_;
  while (!rest.empty()) {
    const ssize_t n = ::write(fd_, rest.data(), rest.size());
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) {
      buffer_.clear();
      throw Fault({Exit::kiln,
                   {path_, 0, 0},
                   "the journal cannot be written",
                   std::strerror(errno),
                   "make room on the disk",
                   {}});
    }
    rest.remove_prefix(static_cast<std::size_t>(n));
  }
  buffer_.clear();
}

PathId Journal::id(const std::string& path) {
  const auto [it, fresh] = ids_.emplace(path, static_cast<PathId>(paths_.size()));
  if (fresh) {
    paths_.push_back(path);
    append("P" + path);
  }
  return it->second;
}

const StepRecord* Journal::step(PathId key) const {
  const auto it = steps_.find(key);
  return it == steps_.end() ? nullptr : &it->second;
}

namespace {
std::string step_payload(PathId key, const StepRecord& record) {
  std::string out = "S";
  put(out, key);
  put(out, record.command.high);
  put(out, record.command.low);
  put(out, record.seconds);
  put(out, record.recorded);
  put_pairs(out, record.inputs);
  put_pairs(out, record.outputs);
  return out;
}
std::string file_payload(PathId id, const FileState& state) {
  std::string out = "F";
  put(out, id);
  put(out, state.size);
  put(out, state.modified);
  put(out, state.inode);
  put(out, state.hash.high);
  put(out, state.hash.low);
  put(out, static_cast<std::uint8_t>(state.settled ? 1 : 0));
  return out;
}
}  // namespace

void Journal::put_step(PathId key, StepRecord record) {
  append(step_payload(key, record));
  steps_[key] = std::move(record);
}

void Journal::forget_step(PathId key) {
  if (steps_.erase(key) == 0) return;
  append(step_payload(key, StepRecord{}));
}

const FileState* Journal::file(PathId id) const {
  const auto it = files_.find(id);
  return it == files_.end() ? nullptr : &it->second;
}

void Journal::put_file(PathId id, const FileState& state) {
  append(file_payload(id, state));
  files_[id] = state;
}

void Journal::compact() {
  flush();
  const std::size_t live = paths_.size() + files_.size() + steps_.size();
  if (records_ < 1000 || records_ < 3 * live) return;
  std::string whole(magic);
  buffer_.clear();
  records_ = 0;
  for (const auto& path : paths_) append("P" + path);
  for (const auto& [id, state] : files_) append(file_payload(id, state));
  for (const auto& [key, record] : steps_) append(step_payload(key, record));
  whole += buffer_;
  buffer_.clear();
  files::write(path_, whole);
  ::close(fd_);
  fd_ = ::open(path_.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
  if (fd_ < 0)
    throw Fault({Exit::kiln,
                 {path_, 0, 0},
                 "the journal cannot be written",
                 std::strerror(errno),
                 "make the kiln writable",
                 {}});
}

}  // namespace coctilis::engine
