// The reader of trees that only have a script of their own. It runs in a mirror of the tree and is watched; what it
// compiles, archives and links is learned, and replayed when only sources have changed.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "base/watched_run.h"
#include "locate/locator.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe::script {

// `file`: the script (absolute, in the tree). Errors: a script that no shell can take (Exit::description).
[[nodiscard]] Result<model::Project> read(const std::string& file, const model::Survey& survey,
                                          locate::Locator& locator, const std::string& work);

// What was learned from a run, as recipes: each compilation, archive and link, with its inputs and outputs. Empty when
// it could not be replayed: something else was done to the results (copied, stripped), or a result is not there.
struct Learned {
  std::vector<model::Recipe> recipes;  // all that was understood
  bool replayable = false;
  std::string why_not;
};
[[nodiscard]] Learned learn(const WatchedRun& run, const std::string& work);

// The compilations that the last run of the script was seen to do; empty when none was.
[[nodiscard]] std::vector<model::Compilation> learned_compilations(const std::string& work);

// Runs the script as a step of the plan does: watched, and keeps what was learned in `state` (a file). `count` (a file;
// may be empty) is told of the steps that it does; how many there will be is known from the run before. Returns its
// exit status; 126 when it cannot be watched.
[[nodiscard]] int run_script(const std::vector<std::string>& argv, const std::string& work, const std::string& state,
                             const std::string& count);

}  // namespace coctilis::describe::script
