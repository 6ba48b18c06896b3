// Runs what a step does: its processes one after the other, this program's own operations on the way, and notes what it
// has to be known of what they read.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/process.h"
#include "engine/contents.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::engine {

// A step that runs.
struct Running {
  std::size_t step = 0;
  std::size_t action = 0;  // the one that is due, or runs
  std::vector<model::Action> actions;
  Moment began;
  model::Reads reads = model::Reads::told;
  Process process;
  model::StepResult result;
  bool watched = true;  // all processes so far were, where they were to be
  // Whether it is known which files they wrote.
  [[nodiscard]] bool tells_what_it_writes() const {
    return watched && (reads == model::Reads::opened || reads == model::Reads::watched || reads == model::Reads::noted);
  }
  WatchedFiles files;
  int kept_file = -1;  // the file in which the compiler writes what it reads, whatever becomes of its name
  bool kept_file_is_ours = false;
};

class Runner {
 public:
  struct Options {
    bool colours = false;          // let compilers colour their messages
    bool hands_on_output = false;  // what steps print is somebody's input
    std::string open_makes = {};   // that wait for what is run here, as their descendants are told
  };
  Runner(const model::Plan& plan, Options options) : plan_(plan), options_(options) {}

  // Makes what has to be there before a step runs: folders of what it makes, below the kiln. Throws Fault.
  void prepare(Running& running) const;
  enum class State { running, good, failed };
  // Starts the action that is due, doing this program's own operations on the way.
  [[nodiscard]] State go_on(Running& running) const;
  // The process of the action that runs has ended: takes what came of it, and goes on.
  [[nodiscard]] State take(Running& running) const;
  // What it read, as far as it was told, absolute; nothing when nobody knows.
  [[nodiscard]] std::optional<std::vector<std::string>> told(Running& running) const;
  // Closes what is open. To be called once for each that was prepared.
  void finish(Running& running, bool good) const;

 private:
  // What this program does itself for a step; gives its exit code.
  [[nodiscard]] int do_operation(const model::Step& step, const model::Action& action, std::string& output) const;
  [[nodiscard]] Command command_for(const Running& running, const model::Action& action) const;
  void note_refusal(Running& running, std::string_view output) const;
  [[nodiscard]] std::string folder_of(const model::Step& step) const;

  const model::Plan& plan_;
  Options options_;
};

}  // namespace coctilis::engine
