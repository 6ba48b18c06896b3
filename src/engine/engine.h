// Runs the plan: in parallel, in the order of what needs what, only what is out of date.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::engine {

struct Progress {
  std::size_t done = 0;                                 // steps that have ended, of those that had to run
  std::size_t total = 0;                                // steps that have to run, as far as is known
  std::vector<std::pair<std::size_t, double>> running;  // step and its age in seconds, oldest first
  double seconds_left = -1;                             // negative: not known
};

// Is told what happens. Called on the thread that runs the engine.
class Observer {
 public:
  virtual ~Observer() = default;
  virtual void step_ended(std::size_t step, const model::StepResult& result) = 0;
  virtual void progress(const Progress& progress) = 0;
};

struct Request {
  std::vector<bool> selection;  // parallel to the plan's steps
  unsigned jobs = 1;
  bool keep_going = false;  // after a failure, go on with what does not need it
  bool colours = false;     // let compilers colour their messages
};

// Runs the selected steps. Failing steps are part of the outcome, not errors. Errors: the kiln cannot be written
// (Exit::kiln), or steps need each other in a circle (Exit::description).
[[nodiscard]] Result<model::Outcome> build(const model::Plan& plan, const Request& request, Observer& observer);

}  // namespace coctilis::engine
