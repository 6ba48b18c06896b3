// Remembers, from run to run, what every step was made from. A file that is only ever appended to while steps run, by
// one or several processes at once (makes that recipes start write the same one): what is appended has its length and a
// checksum, so that after a crash everything up to the last whole part counts.
//
// Layout: the line "coctilis journal 5\n", then parts: u32 length, u64 XXH3 of the payload, payload. A payload is a
// sequence of entries, each with a letter in front:
//   P a path               u32 length, bytes               its number is its position among paths
//   V a file's content     u32 path, hash, u32 form        its number is its position among contents
//   L a list of contents   u32 count, u32 contents         its number is its position among lists, from 1
//   F the state of a file  u32 path, state
//   S a step's record      see `append_step`
//   B a step has begun     u32 path of its first output, u64 maker: its record counts no more
//   D a step is forgotten  u32 path, u64 maker
//   A other folders were searched for a step, with the same outcome: u32 path, u64 maker, u32 list
//   O a run has opened it  u64 of the machine's start, i64 time
// Numbers are in the byte order of the machine; a journal does not move between machines.
#pragma once

#include <cassert>
#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/file_stamp.h"
#include "base/hash.h"

namespace coctilis::engine {

using PathId = std::uint32_t;
using ContentId = std::uint32_t;
using ListId = std::uint32_t;  // 0: the empty list

// A file as it was when its content was hashed.
struct FileState {
  FileStamp stamp;
  std::uint32_t asks_for_names = 0;  // 1: its text asks which headers there are (__has_include)
  Hash hash;
  std::int64_t looked = 0;  // when; times prove nothing for a file that was younger then
};

// What of a file counts besides its content.
enum class Form : std::uint32_t {
  content = 0,
  program = 1,   // and whether it may be run
  presence = 2,  // only whether it is there
  names = 3,     // of a folder: the names in it
  tree = 5,      // of a folder: the names, modes and contents of all that lies in it, at any depth
  output = 4,    // and its mode, and where it leads if it is a link; the mode stands in the upper bits
};
[[nodiscard]] constexpr Form form_of(std::uint32_t bits) { return static_cast<Form>(bits & 0xffU); }

// A file with the content that it had; an empty hash: it was not there.
struct Content {
  PathId path = 0;
  std::uint32_t form = 0;  // Form, with the mode of outputs above it
  Hash hash;
  bool operator==(const Content&) const = default;
};

struct StepRecord {
  Hash command;
  Hash words;                     // the same without its environment
  std::uint64_t maker = 0;        // the call that made it: one description may be followed by several, as makes are
  std::vector<ContentId> inputs;  // declared ones first, then those found while running
  std::vector<ContentId> outputs;
  std::vector<PathId> written;  // what it wrote besides
  ListId searched = 0;          // folders in which something was looked for before it was found elsewhere
  bool any_name = false;        // nobody knows what was looked for in them: any change there counts
  bool watch = false;           // what it reads is only found out by watching it
  double seconds = 0;
  std::int64_t recorded = 0;  // when, in nanoseconds since 1970
};

class Journal {
 public:
  // What is known of a step, by the maker; the lists are valid until the journal is next changed.
  struct Entry {
    Hash command;
    Hash words;
    std::uint64_t maker = 0;
    PathId key = 0;
    std::uint32_t next = 0;  // of the same key; 0: none
    std::uint32_t inputs_at = 0;
    std::uint32_t inputs_count = 0;
    std::uint32_t outputs_at = 0;
    std::uint32_t outputs_count = 0;
    std::uint32_t written_at = 0;
    std::uint32_t written_count = 0;
    ListId searched = 0;
    bool any_name = false;
    bool watch = false;
    bool known = false;  // else there is nothing but what follows
    bool begun = false;  // it was begun and did not come to an end
    double seconds = 0;
    std::int64_t recorded = 0;
  };
  struct Ids {
    const std::uint32_t* first = nullptr;
    std::size_t count = 0;
    [[nodiscard]] const std::uint32_t* begin() const { return first; }
    [[nodiscard]] const std::uint32_t* end() const { return first + count; }
    [[nodiscard]] std::size_t size() const { return count; }
  };

  // Opens or makes the file. Contents that cannot be understood count as none, and what follows damage is dropped.
  // `tidy`: nobody else writes it now, so that it may be rewritten when most of it is out of date. Throws Fault
  // (Exit::kiln): it cannot be written, or comes from a newer version of this program.
  explicit Journal(std::string path, bool tidy = false);
  ~Journal();
  Journal(const Journal&) = delete;
  Journal& operator=(const Journal&) = delete;

  PathId id(std::string_view path);
  // The number of a path that is known; `none` of others.
  static constexpr PathId none = 0xffffffffU;
  [[nodiscard]] PathId find_id(std::string_view path) const;
  [[nodiscard]] std::string_view path(PathId id) const { return paths_[id]; }
  [[nodiscard]] std::size_t path_count() const { return paths_.size(); }

  ContentId content(const Content& content);
  [[nodiscard]] const Content& content(ContentId id) const {
    assert(id < contents_.size());
    return contents_[id];
  }
  [[nodiscard]] std::size_t content_count() const { return contents_.size(); }
  template <class F>
  void each_content_of(PathId path, F&& f) const {
    if (path >= content_of_.size()) return;
    for (std::uint32_t at = content_of_[path]; at != 0; at = content_before_[at - 1]) f(at - 1);
  }
  ListId list(const std::vector<ContentId>& contents);
  [[nodiscard]] Ids list(ListId id) const;
  [[nodiscard]] std::size_t list_count() const { return lists_.size(); }

  // The record of a step by its first output and its maker; null when there is none, or it does not count any more.
  [[nodiscard]] const Entry* step(PathId key, std::uint64_t maker) const;
  // Calls `f(entry)` for each record of that output, whoever made it.
  template <class F>
  void each(PathId key, F&& f) const {
    if (key >= first_.size()) return;
    for (std::uint32_t at = first_[key]; at != 0; at = steps_[at].next) {
      if (steps_[at].known) f(steps_[at]);
    }
  }
  template <class F>
  void each(F&& f) const {
    for (std::size_t at = 1; at < steps_.size(); ++at) {
      if (steps_[at].known) f(steps_[at]);
    }
  }
  [[nodiscard]] Ids inputs(const Entry& entry) const { return {pool_.data() + entry.inputs_at, entry.inputs_count}; }
  [[nodiscard]] Ids outputs(const Entry& entry) const { return {pool_.data() + entry.outputs_at, entry.outputs_count}; }
  [[nodiscard]] Ids written(const Entry& entry) const { return {pool_.data() + entry.written_at, entry.written_count}; }
  // True when the step was begun and did not come to an end, as far as is known.
  [[nodiscard]] bool was_cut_off(PathId key, std::uint64_t maker) const;
  // What it made the last time, whether that counts still or not.
  [[nodiscard]] Ids last_outputs(PathId key, std::uint64_t maker) const;
  // What its last record said of watching it, whether that counts still or not.
  [[nodiscard]] bool is_to_be_watched(PathId key, std::uint64_t maker) const;

  // The same as a record that can be put again.
  [[nodiscard]] StepRecord record(const Entry& entry) const;
  void put_step(PathId key, const StepRecord& record);
  // The step is about to run: until it is put, it has no record.
  void begin_step(PathId key, std::uint64_t maker);
  void forget_step(PathId key, std::uint64_t maker);
  // Other folders were searched, with the same outcome.
  void put_searched(PathId key, std::uint64_t maker, ListId searched);

  [[nodiscard]] const FileState* file(PathId id) const;
  void put_file(PathId id, const FileState& state);

  // Writes what is buffered to the file. Throws Fault (Exit::kiln).
  void flush();
  // Takes in what other processes have written since.
  void refresh();
  // Something in the file was damaged, or it was gone though there had been one.
  [[nodiscard]] bool was_damaged() const { return damaged_; }

 private:
  [[noreturn]] void cannot(const char* what, int error) const;
  void open_file();
  void load();
  // Takes the parts of `text` in; returns how many bytes of it are whole.
  std::size_t take(std::string_view text);
  bool take_entries(std::string_view payload);
  bool take_step(std::string_view& rest);
  PathId lasting_id(std::string_view text);  // of a text that stays where it is
  [[nodiscard]] std::size_t slot_of(std::string_view text) const;
  Entry& entry(PathId key, std::uint64_t maker);
  [[nodiscard]] std::uint32_t entry_index(PathId key, std::uint64_t maker) const;
  void rewrite();
  void distrust_young_files(std::int64_t last);
  std::string pending_text();
  std::uint32_t number_of_path(std::string& out, PathId id);
  std::uint32_t number_of_content(std::string& out, ContentId id);
  std::uint32_t number_of_list(std::string& out, ListId id);
  void append_step(std::string& out, const Entry& entry);

  std::string path_;
  int fd_ = -1;
  bool damaged_ = false;
  std::uint64_t size_ = 0;  // of the file, as far as it was taken in

  std::vector<std::unique_ptr<std::string>> texts_;  // what was read, and copies of other paths: paths lie in them
  bool texts_are_copies_ = false;                    // the last of them is for further copies
  std::vector<std::string_view> paths_;
  std::vector<PathId> index_;  // by hash, open addressing; a power of two
  std::vector<Content> contents_;
  std::vector<std::uint32_t> content_of_;      // by path: its last content + 1; 0: none
  std::vector<std::uint32_t> content_before_;  // by content: the one before of the same path + 1
  std::vector<std::vector<ContentId>> lists_;  // number - 1
  std::map<Hash, ListId> list_index_;
  std::vector<FileState> files_;      // by path
  std::vector<Entry> steps_;          // from 1
  std::vector<std::uint32_t> first_;  // by path: its first record
  std::vector<std::uint32_t> pool_;

  // Numbers in the file, where other processes may have added theirs in between.
  static constexpr std::uint32_t unwritten = 0xffffffffU;
  std::vector<std::uint32_t> path_in_file_;
  std::vector<std::uint32_t> path_of_file_;
  std::vector<std::uint32_t> content_in_file_;
  std::vector<std::uint32_t> content_of_file_;
  std::vector<std::uint32_t> list_in_file_;
  std::vector<std::uint32_t> list_of_file_;

  // What is to be written, in order.
  struct Pending {
    char what = 0;  // 'S', 'B', 'D', 'F'
    PathId key = 0;
    std::uint64_t maker = 0;
  };
  std::vector<Pending> pending_;
  bool opening_told_ = false;        // the entry 'O' of this process is written
  std::uint64_t machine_start_ = 0;  // of the last entry 'O'
  std::int64_t last_time_ = 0;       // that any entry tells
  std::size_t all_entries_ = 0;      // of steps and files, also those that others have replaced
};

}  // namespace coctilis::engine
