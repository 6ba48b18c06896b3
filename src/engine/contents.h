// What is known of files' contents in one run. Times of files only spare reading them, and only where they can be
// trusted: everything that the system tells of a file is as it was when it was read, and it was not so young then that
// a later change could bear the same times.
#pragma once

#include <sys/stat.h>

#include <algorithm>
#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/sights.h"
#include "engine/journal.h"

namespace coctilis::engine {

// A point in time, on the clock of files and on one that only goes forward.
struct Moment {
  std::int64_t wall = 0;
  std::int64_t steady = 0;
  [[nodiscard]] static Moment now();
};

class Contents {
 public:
  struct Now {
    enum class State : std::uint8_t { absent, unreadable, there };
    State state = State::absent;
    bool is_folder = false;
    bool asks_for_names = false;
    std::uint32_t mode = 0;
    std::int64_t changed = 0;  // of its status
    std::int64_t modified = 0;
    std::int64_t seen = 0;  // when it was looked at, on the clock that only goes forward
    Hash hash;              // of its content; of a folder: of the names in it
    Hash link;              // where it leads, if it is a link itself; else empty
  };

  explicit Contents(Journal& journal) : journal_(journal) {}

  // As it is now; looked at once in this run, until it is forgotten.
  const Now& now(PathId id);
  // True when the file is as `content` says.
  [[nodiscard]] bool is(const Content& content);
  // What is to be kept of the file as it is now, in this form.
  [[nodiscard]] Content take(PathId path, Form form);
  // The same of something that a step was to make, as it is now that the step has run. Of a folder only counts that it
  // is there: others put things in it, too. What the step has put in it itself is `told` file by file, or else the
  // names in it count.
  [[nodiscard]] Content take_result(PathId path, bool told);
  // What is to be kept of a file that was read by something that began at `when`. What was looked at before then counts
  // as it was: if it was changed since, it is another the next time. One that is only looked at now, and was changed
  // since `when`, has a hash that nothing has: nobody can tell what was read.
  [[nodiscard]] Content take_as_of(PathId path, Form form, const Moment& when);
  // The file as it was looked at in this run, for another run that only wants to know whether it still is so. What
  // cannot be told by looking at times spoils `sights`.
  void show(PathId id, Sights& sights);
  void forget(PathId id);
  // The same of a folder and all that was seen in it.
  void forget_tree(PathId id);
  void forget_all() {
    std::fill(looked_.begin(), looked_.end(), 0);
    trees_.clear();
  }
  // Calls `f(id)` for a folder and all that lies in it now, in the order of names; links are not followed.
  template <class F>
  void each_below(PathId id, F&& f) {
    for (const PathId one : tree(id).ids) f(one);
  }
  // The time of its last modification, in nanoseconds; -1: it is not there.
  [[nodiscard]] std::int64_t modified(PathId id);

 private:
  struct Tree {
    Hash hash;             // empty: there is no folder; unknown_hash: not all of it can be told
    bool unknown = false;  // so far
    std::vector<PathId> ids;
  };
  const Tree& tree(PathId id);
  void add_tree(PathId id, Tree& into, std::string& text, int depth);
  Now look(PathId id);
  [[nodiscard]] static Hash hash_in_form(const Now& now, Form form);

  Journal& journal_;
  std::vector<std::uint32_t> looked_;  // by path: place in `known_` + 1
  std::vector<Now> known_;
  std::unordered_map<PathId, Tree> trees_;
};

// The hash of what nobody knows: no file has it.
inline constexpr Hash unknown_hash{0xffffffffffffffffU, 1};

}  // namespace coctilis::engine
