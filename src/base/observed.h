// What the working out of something looked at: files, folders, and what commands said. What came of it can be kept and
// taken again as long as all of that is as it was.
//
// Whoever works something out opens an Observation. While it is open, the functions of base/files.h and base/hash.h
// tell it what they look at and write; code that asks the system itself tells it with the functions of `observe`. A
// process that is started in any other way than `observe::run` makes what is worked out one that cannot be kept.
#pragma once

#include <functional>
#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "base/process.h"
#include "base/sights.h"

namespace coctilis {

class Observed {
 public:
  // What of a path counts.
  enum class Kind : char {
    presence = 'p',  // whether it is there, whether it is a folder, and whether it may be run
    folder = 'd',    // whether it is a folder, and nothing else
    content = 'c',   // of a file: size, time, mode and identity
    entries = 'e',   // of a folder: the names of what lies in it
    link = 'l',      // where a symbolic link leads
  };

  // Takes the state of `path` the first time it is looked at. What was written before is no news.
  void look(Kind kind, const std::string& path);
  // Something was written, or taken away: the state counts that it has once all is worked out.
  void wrote(const std::string& path);
  void said(const Command& command, const Ended& ended);
  // The present time was asked for in a form (strftime(3)) and gave `text`.
  void clock(const std::string& format, bool universal, const std::string& text);
  // A folder that is brought in step with another before anything in it counts.
  void follows(const std::string& from, const std::string& to) { copies_.emplace(from, to); }
  void spoil(const std::string& why);
  // What was seen and written in a folder counts no more.
  void forget_below(const std::string& folder);

  // To be called once all is worked out: true when doing it again would come upon the same. False when something looked
  // at is another now than it was then, or cannot be repeated; `why_not` says what.
  bool settle();
  [[nodiscard]] const std::string& why_not() const { return spoilt_; }
  // What is different from then, in a few words; empty when nothing is. Runs the commands that were run then.
  [[nodiscard]] std::string difference() const;
  [[nodiscard]] const std::set<std::pair<std::string, std::string>>& copies() const { return copies_; }
  [[nodiscard]] std::size_t size() const { return sights_.size(); }
  // Adds what was seen, as it still is; spoils `sights` when commands were run, the time was asked for, or a folder was
  // followed that `seen` does not know to be seen as a whole, and when something is another now.
  void show(Sights& sights, const std::function<bool(const std::string& from, const std::string& to)>& seen) const;

  // Takes what `other` has looked at, which is as it was then (difference()).
  void look_as(const Observed& other);

  template <class Archive>
  void serialize(Archive& archive) {
    archive(sights_, said_, clocks_, copies_);
  }

  struct Said {
    Command command;
    std::string answer;  // the hash of all that came of it
    template <class Archive>
    void serialize(Archive& archive) {
      auto& [argv, folder, environment, limit_seconds, input, merge_errors, output_limit, modes_count, sandboxed,
             writable, terminal, watch] = command;
      archive(argv, folder, environment, limit_seconds, input, merge_errors, output_limit, modes_count, sandboxed,
              writable, answer);
    }
  };

 private:
  void note(Kind kind, const std::string& path);
  std::map<std::string, std::string> sights_;  // "p/path" -> its state
  std::set<std::string> written_;
  std::vector<Said> said_;
  std::map<std::string, std::size_t> said_index_;
  std::map<std::string, std::string> clocks_;  // "u" or "l" (universal or local) and the form -> what it gave
  std::set<std::pair<std::string, std::string>> copies_;
  std::string spoilt_;
};

// While one lives, what this program looks at goes to `into`, from all threads. One that is opened while another is
// makes what the other observes one that cannot be kept: it does not see all.
class Observation {
 public:
  explicit Observation(Observed& into);
  ~Observation();
  Observation(const Observation&) = delete;
  Observation& operator=(const Observation&) = delete;

 private:
  Observed* outer_;
};

namespace observe {

// What this thread does while one lives is not looked at: it is watched in another way, as kept answers are.
class Apart {
 public:
  Apart();
  ~Apart();
  Apart(const Apart&) = delete;
  Apart& operator=(const Apart&) = delete;
};

void presence(const std::string& path);
void folder(const std::string& path);
void content(const std::string& path);
void entries(const std::string& path);
void link(const std::string& path);
void wrote(const std::string& path);
void follows(const std::string& from, const std::string& to);
void spoil(const std::string& why);
// A process is about to be started.
void process(const Command& command);
// Counts although this thread is apart: what a kept answer hangs on.
void depends(const std::string& path, bool entries);
// All that `seen` has looked at and finds as it was: what was worked out then counts again.
void all_of(const Observed& seen);
// Runs a command to the end, as one that is run again when somebody wants to know whether all is as it was.
[[nodiscard]] Ended run(const Command& command);
// The present time (`universal`: UTC, else that of this place) in a form of strftime(3).
[[nodiscard]] std::string clock(const std::string& format, bool universal);

}  // namespace observe
}  // namespace coctilis
