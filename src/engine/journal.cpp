#include "engine/journal.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <algorithm>
#include <cerrno>
#include <cstring>

#include "base/disk.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/result.h"

namespace coctilis::engine {

namespace {
// More than the steps of any tree come to, and more than what other processes add between two looks.
constexpr std::uint64_t most_bytes = 1ULL << 30U;
constexpr std::uint64_t most_at_once = 256ULL << 20U;

constexpr int version = 5;
constexpr std::string_view heading = "coctilis journal ";
constexpr std::string_view magic = "coctilis journal 5\n";
constexpr std::size_t part_head = sizeof(std::uint32_t) + sizeof(std::uint64_t);

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
void put(std::string& out, const Hash& hash) {
  put(out, hash.high);
  put(out, hash.low);
}
bool get(std::string_view& in, Hash& hash) { return get(in, hash.high) && get(in, hash.low); }

// What tells one start of the machine from the next (proc(5), random/boot_id).
std::uint64_t start_of_machine() {
  char text[64] = {};
  const int fd = ::open("/proc/sys/kernel/random/boot_id", O_RDONLY | O_CLOEXEC);
  if (fd < 0) return 1;
  const ssize_t n = ::read(fd, text, sizeof text);
  ::close(fd);
  return n > 0 ? hash_short({text, static_cast<std::size_t>(n)}) : 1;
}

std::string part_of(const std::string& payload) {
  std::string out;
  out.reserve(payload.size() + part_head);
  put(out, static_cast<std::uint32_t>(payload.size()));
  put(out, hash_short(payload));
  return out += payload;
}

// Written and read in this order.
template <class Action, class State>
void each_field(State& state, Action&& action) {
  action(state.stamp.size);
  action(state.stamp.modified);
  action(state.stamp.changed);
  action(state.stamp.inode);
  action(state.stamp.device);
  action(state.stamp.mode);
  action(state.asks_for_names);
  action(state.hash.high);
  action(state.hash.low);
  action(state.looked);
}

}  // namespace

void Journal::cannot(const char* what, int error) const {
  throw Fault({Exit::kiln,
               {path_, 0, 0},
               fmt::format("the journal cannot be {}", what),
               std::strerror(error),
               remedy_for_writing(error),
               {}});
}

Journal::Journal(std::string path, bool tidy) : path_(std::move(path)) {
  // What is in it is no news to whoever works out a plan.
  const observe::Apart apart;
  steps_.emplace_back();
  open_file();
  load();
  if (machine_start_ != 0 && machine_start_ != start_of_machine()) distrust_young_files(last_time_);
  const auto live = static_cast<std::size_t>(
      std::count_if(steps_.begin(), steps_.end(), [](const Entry& entry) { return entry.known; }) +
      std::count_if(files_.begin(), files_.end(), [](const FileState& state) { return state.stamp.inode != 0; }));
  constexpr std::size_t small = 1000;
  if (tidy && all_entries_ > small && all_entries_ > 4 * live) rewrite();
}

Journal::~Journal() {
  try {
    flush();
  } catch (const Fault&) {  // NOLINT: what is lost here is made again by the next run
  }
  if (fd_ >= 0) ::close(fd_);
}

void Journal::open_file() {
  fd_ = disk().open(path_.c_str(), O_RDWR | O_CREAT | O_APPEND | O_NOFOLLOW, 0666);
  if (fd_ < 0) cannot("opened", errno);
}

void Journal::load() {
  ::flock(fd_, LOCK_EX);
  const auto unlock = [&] { ::flock(fd_, LOCK_UN); };
  auto text = std::make_unique<std::string>();
  struct stat info {};
  if (::fstat(fd_, &info) != 0 || !S_ISREG(info.st_mode)) {
    unlock();
    cannot("read", S_ISREG(info.st_mode) ? errno : EINVAL);
  }
  // Commands may have written to it: what lies behind is no part of it.
  text->resize(static_cast<std::size_t>(std::min<std::uint64_t>(static_cast<std::uint64_t>(info.st_size), most_bytes)));
  std::size_t have = 0;
  while (have < text->size()) {
    const ssize_t n = ::pread(fd_, text->data() + have, text->size() - have, static_cast<off_t>(have));
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    have += static_cast<std::size_t>(n);
  }
  text->resize(have);
  std::string_view rest = *text;
  std::size_t good = 0;
  if (rest.starts_with(magic)) {
    rest.remove_prefix(magic.size());
    good = magic.size() + take(rest);
  } else if (rest.starts_with(heading)) {
    const int theirs = std::atoi(std::string(rest.substr(heading.size(), 9)).c_str());
    if (theirs > version) {
      unlock();
      throw Fault({Exit::kiln,
                   {path_, 0, 0},
                   fmt::format("the journal was written by a newer Coctilis (its layout is {}, this one knows {})",
                               theirs, version),
                   {},
                   "go on with the newer one, or remove the kiln with 'coctilis clean --yes' and build anew",
                   {}});
    }
  }
  // What follows the last whole part is the trace of a crash, or damage.
  if (good < static_cast<std::size_t>(info.st_size)) {
    damaged_ = true;
    if (disk().truncate(fd_, static_cast<off_t>(good)) != 0) {
      const int error = errno;
      unlock();
      cannot("written", error);
    }
  }
  size_ = good;
  texts_.push_back(std::move(text));
  texts_are_copies_ = false;
  unlock();
}

std::size_t Journal::take(std::string_view text) {
  std::size_t good = 0;
  for (;;) {
    std::uint32_t length = 0;
    std::uint64_t sum = 0;
    if (!get(text, length) || !get(text, sum) || text.size() < length) break;
    const std::string_view payload = text.substr(0, length);
    if (hash_short(payload) != sum || !take_entries(payload)) break;
    text.remove_prefix(length);
    good += part_head + length;
  }
  return good;
}

bool Journal::take_entries(std::string_view rest) {
  const auto local_path = [&](PathId& id) {
    if (id >= path_of_file_.size()) return false;
    id = path_of_file_[id];
    return true;
  };
  while (!rest.empty()) {
    const char what = rest.front();
    rest.remove_prefix(1);
    PathId path = 0;
    switch (what) {
      case 'P': {
        std::uint32_t length = 0;
        if (!get(rest, length) || rest.size() < length) return false;
        const PathId known = lasting_id(rest.substr(0, length));
        rest.remove_prefix(length);
        path_in_file_[known] = static_cast<std::uint32_t>(path_of_file_.size());
        path_of_file_.push_back(known);
        break;
      }
      case 'V': {
        Content one;
        if (!get(rest, one.path) || !local_path(one.path) || !get(rest, one.form) || !get(rest, one.hash)) return false;
        const ContentId known = content(one);
        content_in_file_[known] = static_cast<std::uint32_t>(content_of_file_.size());
        content_of_file_.push_back(known);
        break;
      }
      case 'L': {
        std::uint32_t count = 0;
        if (!get(rest, count) || rest.size() / sizeof(ContentId) < count) return false;
        std::vector<ContentId> all(count);
        for (auto& one : all) {
          if (!get(rest, one) || one >= content_of_file_.size()) return false;
          one = content_of_file_[one];
        }
        const ListId known = list(all);
        list_of_file_.push_back(known);
        if (known != 0) list_in_file_[known - 1] = static_cast<std::uint32_t>(list_of_file_.size());
        break;
      }
      case 'F': {
        FileState state;
        bool whole = get(rest, path) && local_path(path);
        each_field(state, [&](auto& field) { whole = whole && get(rest, field); });
        if (!whole) return false;
        files_[path] = state;
        last_time_ = std::max(last_time_, state.looked);
        ++all_entries_;
        break;
      }
      case 'S':
        if (!take_step(rest)) return false;
        ++all_entries_;
        break;
      case 'B':
      case 'D': {
        std::uint64_t maker = 0;
        if (!get(rest, path) || !local_path(path) || !get(rest, maker)) return false;
        auto& one = entry(path, maker);
        one.known = false;
        one.begun = what == 'B';
        ++all_entries_;
        break;
      }
      case 'A': {
        std::uint64_t maker = 0;
        std::uint32_t searched = 0;
        if (!get(rest, path) || !local_path(path) || !get(rest, maker) || !get(rest, searched) ||
            searched > list_of_file_.size())
          return false;
        entry(path, maker).searched = searched == 0 ? 0 : list_of_file_[searched - 1];
        ++all_entries_;
        break;
      }
      case 'O': {
        std::int64_t time = 0;
        if (!get(rest, machine_start_) || !get(rest, time)) return false;
        last_time_ = std::max(last_time_, time);
        break;
      }
      default: return false;
    }
  }
  return true;
}

bool Journal::take_step(std::string_view& rest) {
  PathId path = 0;
  std::uint64_t maker = 0;
  Hash command;
  Hash words;
  double seconds = 0;
  std::int64_t recorded = 0;
  std::uint8_t flags = 0;
  std::uint32_t searched = 0;
  std::uint32_t counts[3] = {};
  if (!get(rest, path) || path >= path_of_file_.size() || !get(rest, maker) || !get(rest, command) ||
      !get(rest, words) || !get(rest, seconds) || !get(rest, recorded) || !get(rest, flags) || !get(rest, searched) ||
      !get(rest, counts[0]) || !get(rest, counts[1]) || !get(rest, counts[2]))
    return false;
  const std::uint64_t all = std::uint64_t{counts[0]} + counts[1] + counts[2];
  if (searched > list_of_file_.size() || rest.size() / sizeof(std::uint32_t) < all) return false;
  auto& one = entry(path_of_file_[path], maker);
  one.command = command;
  one.words = words;
  one.seconds = seconds;
  one.recorded = recorded;
  one.any_name = (flags & 1U) != 0;
  one.watch = (flags & 2U) != 0;
  one.searched = searched == 0 ? 0 : list_of_file_[searched - 1];
  one.known = true;
  one.begun = false;
  last_time_ = std::max(last_time_, recorded);
  const auto at = static_cast<std::uint32_t>(pool_.size());
  one.inputs_at = at;
  one.inputs_count = counts[0];
  one.outputs_at = at + counts[0];
  one.outputs_count = counts[1];
  one.written_at = at + counts[0] + counts[1];
  one.written_count = counts[2];
  pool_.resize(pool_.size() + all);
  std::memcpy(pool_.data() + at, rest.data(), all * sizeof(std::uint32_t));
  rest.remove_prefix(all * sizeof(std::uint32_t));
  for (std::size_t i = 0; i < all; ++i) {
    auto& number = pool_[at + i];
    const auto& numbers = i < std::size_t{counts[0]} + counts[1] ? content_of_file_ : path_of_file_;
    if (number >= numbers.size()) {
      one.known = false;
      return false;
    }
    number = numbers[number];
  }
  return true;
}

// ---- paths, contents, lists
// ------------------------------------------------------------------------------------------

std::size_t Journal::slot_of(std::string_view text) const {
  const std::size_t mask = index_.size() - 1;
  std::size_t slot = XXH3_64bits(text.data(), text.size()) & mask;
  while (index_[slot] != none && paths_[index_[slot]] != text) slot = (slot + 1) & mask;
  return slot;
}

PathId Journal::find_id(std::string_view path) const { return index_.empty() ? none : index_[slot_of(path)]; }

PathId Journal::lasting_id(std::string_view path) {
  if (2 * (paths_.size() + 1) > index_.size()) {
    constexpr std::size_t first_size = 1024;
    index_.assign(std::max(first_size, 4 * index_.size()), none);
    for (std::size_t i = 0; i < paths_.size(); ++i) index_[slot_of(paths_[i])] = static_cast<PathId>(i);
  }
  auto& slot = index_[slot_of(path)];
  if (slot != none) return slot;
  slot = static_cast<PathId>(paths_.size());
  paths_.push_back(path);
  path_in_file_.push_back(unwritten);
  files_.emplace_back();
  first_.push_back(0);
  content_of_.push_back(0);
  return slot;
}

PathId Journal::id(std::string_view path) {
  if (const PathId known = find_id(path); known != none) return known;
  // Paths that were read lie in what was read; others are copied, many into one piece of memory.
  constexpr std::size_t piece = 1U << 16U;
  if (texts_.empty() || texts_.back()->capacity() - texts_.back()->size() < path.size() || !texts_are_copies_) {
    texts_.push_back(std::make_unique<std::string>());
    texts_.back()->reserve(std::max(piece, path.size()));
    texts_are_copies_ = true;
  }
  auto& text = *texts_.back();
  const std::size_t at = text.size();
  text += path;
  return lasting_id(std::string_view(text).substr(at));
}

ContentId Journal::content(const Content& wanted) {
  for (std::uint32_t at = content_of_[wanted.path]; at != 0; at = content_before_[at - 1]) {
    if (contents_[at - 1] == wanted) return at - 1;
  }
  const auto id = static_cast<ContentId>(contents_.size());
  contents_.push_back(wanted);
  content_in_file_.push_back(unwritten);
  content_before_.push_back(content_of_[wanted.path]);
  content_of_[wanted.path] = id + 1;
  return id;
}

ListId Journal::list(const std::vector<ContentId>& contents) {
  if (contents.empty()) return 0;
  const Hash hash =
      hash_bytes({reinterpret_cast<const char*>(contents.data()), contents.size() * sizeof(contents.front())});
  const auto [it, fresh] = list_index_.try_emplace(hash, static_cast<ListId>(lists_.size() + 1));
  if (fresh) {
    lists_.push_back(contents);
    list_in_file_.push_back(0);
  }
  return it->second;
}

Journal::Ids Journal::list(ListId id) const {
  if (id == 0) return {};
  return {lists_[id - 1].data(), lists_[id - 1].size()};
}

// ---- steps and files
// -------------------------------------------------------------------------------------------------

std::uint32_t Journal::entry_index(PathId key, std::uint64_t maker) const {
  if (key >= first_.size()) return 0;
  for (std::uint32_t at = first_[key]; at != 0; at = steps_[at].next) {
    if (steps_[at].maker == maker) return at;
  }
  return 0;
}

Journal::Entry& Journal::entry(PathId key, std::uint64_t maker) {
  if (const auto at = entry_index(key, maker); at != 0) return steps_[at];
  Entry fresh;
  fresh.key = key;
  fresh.maker = maker;
  fresh.next = first_[key];
  first_[key] = static_cast<std::uint32_t>(steps_.size());
  steps_.push_back(fresh);
  return steps_.back();
}

const Journal::Entry* Journal::step(PathId key, std::uint64_t maker) const {
  const auto at = entry_index(key, maker);
  return at == 0 || !steps_[at].known ? nullptr : &steps_[at];
}

bool Journal::was_cut_off(PathId key, std::uint64_t maker) const {
  const auto at = entry_index(key, maker);
  return at != 0 && steps_[at].begun;
}

Journal::Ids Journal::last_outputs(PathId key, std::uint64_t maker) const {
  const auto at = entry_index(key, maker);
  return at == 0 ? Ids{} : outputs(steps_[at]);
}

bool Journal::is_to_be_watched(PathId key, std::uint64_t maker) const {
  const auto at = entry_index(key, maker);
  return at != 0 && steps_[at].watch;
}

StepRecord Journal::record(const Entry& entry) const {
  StepRecord out;
  out.command = entry.command;
  out.words = entry.words;
  out.maker = entry.maker;
  out.searched = entry.searched;
  out.any_name = entry.any_name;
  out.watch = entry.watch;
  out.seconds = entry.seconds;
  out.recorded = entry.recorded;
  const auto copy = [](const Ids& ids) { return std::vector<std::uint32_t>(ids.begin(), ids.end()); };
  out.inputs = copy(inputs(entry));
  out.outputs = copy(outputs(entry));
  out.written = copy(written(entry));
  return out;
}

void Journal::put_step(PathId key, const StepRecord& record) {
  auto& one = entry(key, record.maker);
  one.command = record.command;
  one.words = record.words;
  one.seconds = record.seconds;
  one.recorded = record.recorded;
  one.searched = record.searched;
  one.any_name = record.any_name;
  one.watch = record.watch;
  one.known = true;
  one.begun = false;
  const auto keep = [&](const std::vector<std::uint32_t>& list, std::uint32_t& at, std::uint32_t& count) {
    at = static_cast<std::uint32_t>(pool_.size());
    count = static_cast<std::uint32_t>(list.size());
    pool_.insert(pool_.end(), list.begin(), list.end());
  };
  keep(record.inputs, one.inputs_at, one.inputs_count);
  keep(record.outputs, one.outputs_at, one.outputs_count);
  keep(record.written, one.written_at, one.written_count);
  pending_.push_back({'S', key, record.maker});
}

void Journal::begin_step(PathId key, std::uint64_t maker) {
  auto& one = entry(key, maker);
  one.known = false;
  one.begun = true;
  pending_.push_back({'B', key, maker});
}

void Journal::forget_step(PathId key, std::uint64_t maker) {
  const auto at = entry_index(key, maker);
  if (at == 0 || (!steps_[at].known && !steps_[at].begun)) return;
  steps_[at].known = false;
  steps_[at].begun = false;
  pending_.push_back({'D', key, maker});
}

void Journal::put_searched(PathId key, std::uint64_t maker, ListId searched) {
  const auto at = entry_index(key, maker);
  if (at == 0 || !steps_[at].known || steps_[at].searched == searched) return;
  steps_[at].searched = searched;
  pending_.push_back({'A', key, maker});
}

const FileState* Journal::file(PathId id) const { return files_[id].stamp.inode == 0 ? nullptr : &files_[id]; }

void Journal::put_file(PathId id, const FileState& state) {
  files_[id] = state;
  pending_.push_back({'F', id, 0});
}

// ---- writing
// ---------------------------------------------------------------------------------------------------------

std::uint32_t Journal::number_of_path(std::string& out, PathId id) {
  auto& number = path_in_file_[id];
  if (number == unwritten) {
    number = static_cast<std::uint32_t>(path_of_file_.size());
    path_of_file_.push_back(id);
    out += 'P';
    put(out, static_cast<std::uint32_t>(paths_[id].size()));
    out += paths_[id];
  }
  return number;
}

std::uint32_t Journal::number_of_content(std::string& out, ContentId id) {
  if (content_in_file_[id] == unwritten) {
    const auto path = number_of_path(out, contents_[id].path);
    content_in_file_[id] = static_cast<std::uint32_t>(content_of_file_.size());
    content_of_file_.push_back(id);
    out += 'V';
    put(out, path);
    put(out, contents_[id].form);
    put(out, contents_[id].hash);
  }
  return content_in_file_[id];
}

std::uint32_t Journal::number_of_list(std::string& out, ListId id) {
  if (id == 0) return 0;
  if (list_in_file_[id - 1] == 0) {
    std::vector<std::uint32_t> numbers;
    for (const auto one : lists_[id - 1]) numbers.push_back(number_of_content(out, one));
    list_of_file_.push_back(id);
    list_in_file_[id - 1] = static_cast<std::uint32_t>(list_of_file_.size());
    out += 'L';
    put(out, static_cast<std::uint32_t>(numbers.size()));
    for (const auto number : numbers) put(out, number);
  }
  return list_in_file_[id - 1];
}

void Journal::append_step(std::string& out, const Entry& entry) {
  const auto key = number_of_path(out, entry.key);
  const auto searched = number_of_list(out, entry.searched);
  std::vector<std::uint32_t> numbers;
  numbers.reserve(entry.inputs_count + entry.outputs_count + entry.written_count);
  for (const auto id : inputs(entry)) numbers.push_back(number_of_content(out, id));
  for (const auto id : outputs(entry)) numbers.push_back(number_of_content(out, id));
  for (const auto id : written(entry)) numbers.push_back(number_of_path(out, id));
  out += 'S';
  put(out, key);
  put(out, entry.maker);
  put(out, entry.command);
  put(out, entry.words);
  put(out, entry.seconds);
  put(out, entry.recorded);
  put(out, static_cast<std::uint8_t>((entry.any_name ? 1U : 0U) | (entry.watch ? 2U : 0U)));
  put(out, searched);
  put(out, entry.inputs_count);
  put(out, entry.outputs_count);
  put(out, entry.written_count);
  out.append(reinterpret_cast<const char*>(numbers.data()), numbers.size() * sizeof(std::uint32_t));
}

std::string Journal::pending_text() {
  std::string out;
  if (!opening_told_) {
    out += 'O';
    put(out, start_of_machine());
    put(out, wall_clock());
  }
  for (const auto& one : pending_) {
    if (one.what == 'F') {
      const auto path = number_of_path(out, one.key);
      out += 'F';
      put(out, path);
      each_field(files_[one.key], [&](const auto& field) { put(out, field); });
      continue;
    }
    const auto at = entry_index(one.key, one.maker);
    if (one.what == 'S') {
      // What was put, then begun anew before it was written, is told by what follows.
      if (steps_[at].known) append_step(out, steps_[at]);
      continue;
    }
    const auto path = number_of_path(out, one.key);
    const auto searched = one.what == 'A' ? number_of_list(out, steps_[at].searched) : 0;
    out += one.what;
    put(out, path);
    put(out, one.maker);
    if (one.what == 'A') put(out, searched);
  }
  return out;
}

void Journal::flush() {
  if (pending_.empty()) return;
  ::flock(fd_, LOCK_EX);
  // Numbers are given while nobody else can give any.
  refresh();
  const std::size_t numbers[] = {path_of_file_.size(), content_of_file_.size(), list_of_file_.size()};
  std::string text(size_ == 0 ? magic : "");
  text += part_of(pending_text());
  const int error = disk().write_all(fd_, text);
  if (error == 0) {
    size_ += text.size();
    all_entries_ += pending_.size();
    opening_told_ = true;
  } else {
    // Half a part would hide what others append behind it, and what was numbered for it has no number.
    static_cast<void>(disk().truncate(fd_, static_cast<off_t>(size_)));
    for (std::size_t i = numbers[0]; i < path_of_file_.size(); ++i) path_in_file_[path_of_file_[i]] = unwritten;
    for (std::size_t i = numbers[1]; i < content_of_file_.size(); ++i)
      content_in_file_[content_of_file_[i]] = unwritten;
    for (std::size_t i = numbers[2]; i < list_of_file_.size(); ++i) list_in_file_[list_of_file_[i] - 1] = 0;
    path_of_file_.resize(numbers[0]);
    content_of_file_.resize(numbers[1]);
    list_of_file_.resize(numbers[2]);
  }
  pending_.clear();
  ::flock(fd_, LOCK_UN);
  if (error != 0) cannot("written", error);
}

void Journal::refresh() {
  struct stat info {};
  if (::fstat(fd_, &info) != 0 || static_cast<std::uint64_t>(info.st_size) <= size_) return;
  auto text = std::make_unique<std::string>(
      std::min(static_cast<std::size_t>(info.st_size) - size_, static_cast<std::size_t>(most_at_once)), '\0');
  const ssize_t n = ::pread(fd_, text->data(), text->size(), static_cast<off_t>(size_));
  if (n <= 0) return;
  text->resize(static_cast<std::size_t>(n));
  std::string_view rest = *text;
  std::size_t head = 0;
  if (size_ == 0) {
    if (!rest.starts_with(magic)) return;
    head = magic.size();
    rest.remove_prefix(head);
  }
  size_ += head + take(rest);
  texts_.push_back(std::move(text));
  texts_are_copies_ = false;
}

void Journal::distrust_young_files(std::int64_t last) {
  // What was written shortly before the machine stopped may never have reached the disk.
  constexpr std::int64_t two_minutes = 120'000'000'000;
  for (auto& state : files_) {
    if (std::max(state.stamp.changed, state.stamp.modified) > last - two_minutes) state.looked = 0;
  }
}

void Journal::rewrite() {
  const std::string other = path_ + ".tidy";
  ::unlink(other.c_str());
  try {
    Journal fresh(other);
    const auto take_over = [&](PathId path) {
      const PathId there = fresh.id(paths_[path]);
      if (const auto* state = file(path); state != nullptr && fresh.file(there) == nullptr)
        fresh.put_file(there, *state);
      return there;
    };
    const auto take_over_content = [&](ContentId id) {
      Content one = contents_[id];
      one.path = take_over(one.path);
      return fresh.content(one);
    };
    for (const auto& old : steps_) {
      if (!old.known && !old.begun) continue;
      const PathId key = take_over(old.key);
      if (old.begun) {
        fresh.begin_step(key, old.maker);
        continue;
      }
      StepRecord record = this->record(old);
      for (auto& id : record.inputs) id = take_over_content(id);
      for (auto& id : record.outputs) id = take_over_content(id);
      for (auto& id : record.written) id = take_over(id);
      std::vector<ContentId> searched;
      for (const auto id : list(old.searched)) searched.push_back(take_over_content(id));
      record.searched = fresh.list(searched);
      fresh.put_step(key, record);
    }
    fresh.flush();
    if (disk().rename(other.c_str(), path_.c_str()) != 0) return;
  } catch (const Fault&) {
    ::unlink(other.c_str());
    return;  // it stays as long as it is
  }
  // From now on the short one.
  ::close(fd_);
  texts_.clear();
  paths_.clear();
  index_.clear();
  contents_.clear();
  content_of_.clear();
  content_before_.clear();
  lists_.clear();
  list_index_.clear();
  files_.clear();
  steps_.assign(1, {});
  first_.clear();
  pool_.clear();
  for (auto* list :
       {&path_in_file_, &path_of_file_, &content_in_file_, &content_of_file_, &list_in_file_, &list_of_file_})
    list->clear();
  size_ = all_entries_ = 0;
  open_file();
  load();
}

}  // namespace coctilis::engine
