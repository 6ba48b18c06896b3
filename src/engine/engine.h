// Runs the plan: in parallel, in the order of what needs what, only what is out of date.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/job_tokens.h"
#include "base/result.h"
#include "base/shared_count.h"
#include "base/sights.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::engine {

struct Progress {
  std::size_t done = 0;                                 // steps that have ended, of those that had to run
  std::size_t total = 0;                                // steps that have to run, as far as is known
  bool open = false;                                    // nobody knows how many more there will be
  std::vector<std::pair<std::size_t, double>> running;  // step and its age in seconds, oldest first
  std::vector<double> last_time;  // of each of these: seconds that it took then; negative: unknown
  double seconds_left = -1;       // negative: not known; see time_left.h
};

// Is told what happens. Called on the thread that runs the engine.
class Observer {
 public:
  virtual ~Observer() = default;
  virtual void step_begun(std::size_t, const model::StepResult&) {}  // which has its reason, and when
  virtual void step_ended(std::size_t step, const model::StepResult& result) = 0;
  virtual void progress(const Progress& progress) = 0;
};

struct Request {
  std::vector<bool> selection;  // parallel to the plan's steps
  unsigned jobs = 1;
  bool sweeps = false;      // the plan has all steps of its maker: what others of it have made is taken away
  bool tidy = false;        // nobody else writes the journal now: it may be made shorter
  bool keep_going = false;  // after a failure, go on with what does not need it
  bool colours = false;     // let compilers colour their messages
  // Whoever asked for the steps hands on what they print, as inner makes do: nothing of it may be left out.
  bool hands_on_output = false;
  // Of a make that a recipe has started: itself and those that wait for it, as COCTILIS_MAKE_OPEN names them.
  std::string open_makes = {};
  // A recipe that only makes documents and fails is left out; not when the user asked for what it makes.
  bool leave_out_documents = true;
  // Whether a file is as it came with the tree, or as the script left it that configures the tree: only of such results
  // the time rule of makefiles is believed. Empty: none is.
  std::function<bool(const std::string&)> given;
  // Nothing is run: results are touched, and count as made from what is there now. Steps that start makes of their own
  // are run.
  bool touches = false;
  // Works out the actions of a step that is `late`. May throw Fault.
  std::function<std::vector<model::Action>(const model::Step&)> late;
  // Tells of a step that starts makes of its own that nothing in them is out of date, so that it need not run.
  std::function<bool(const model::Step&)> settled;
  // Leave to run further processes at once; null: none is needed. One process never needs any.
  JobTokens* tokens = nullptr;
  // All that the selected steps hang on is told to the observation that is open.
  bool tell_observation = false;
  // Gets all that the selected steps hang on when each of them is up to date, so that they are as long as all of it
  // stays so; spoilt when that cannot be told. Null: nobody asks.
  Sights* sights = nullptr;
  // While the machine's load (getloadavg(3), one minute) is higher, one step runs at a time; 0: no limit.
  double load = 0;
  // Steps that other processes of this run do, for its progress; null: there are none.
  const SharedCount* others = nullptr;
  // Where this engine's own steps are counted, for the run that shows progress; null: nobody asks.
  SharedCount* own = nullptr;
};

// True when one of the selected steps would run. Nothing is run or written. Errors: as for build.
[[nodiscard]] Result<bool> anything_to_do(const model::Plan& plan, const Request& request);

// What `build` would do, as far as can be told before anything runs: which of the selected steps would run and why, in
// an order in which they may; those behind them run if what these make is another then. Nothing is run or written.
// Errors: as for build.
struct DueStep {
  std::size_t step = 0;
  std::string reason;
  bool perhaps = false;
};
[[nodiscard]] Result<std::vector<DueStep>> due(const model::Plan& plan, const Request& request);

// Runs the selected steps. Failing steps are part of the outcome, not errors. Errors: the kiln cannot be written
// (Exit::kiln), or steps need each other in a circle (Exit::description).
[[nodiscard]] Result<model::Outcome> build(const model::Plan& plan, const Request& request, Observer& observer);

// Where what is known of the plan's steps is kept.
[[nodiscard]] std::string journal_of(const model::Plan& plan);
// Puts records into the journal as if all steps of the plan had just run, well and as they stand there; `read` has the
// files (absolute) that each has read besides what it is said to. Errors: the kiln cannot be written (Exit::kiln).
[[nodiscard]] Result<bool> remember_made(const model::Plan& plan, const std::vector<std::vector<std::string>>& read);

}  // namespace coctilis::engine
