// The reader of trees that only have a script of their own. It runs in a mirror of the tree and is watched; what it
// compiles, archives and links is learned, and replayed when only sources have changed that nothing else reads.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "describe/readers.h"
#include "describe/script/learning.h"
#include "model/plan.h"
#include "model/project.h"

namespace coctilis::describe::script {

// `request.file` is the script. Errors: a script that no shell can take (Exit::description).
[[nodiscard]] Result<model::Project> read(const ReadRequest& request);

// The line of the table of readers.
[[nodiscard]] Reader reader();

// What the last run of the script in the mirror `work` was seen to do; empty when there was none.
[[nodiscard]] Learned last_run(const std::string& work);

// One run of a script, as a step of a plan does it. All paths are absolute.
struct ScriptRun {
  std::vector<std::string> argv;
  std::string tree;
  std::string work;    // its mirror
  std::string folder;  // in the mirror, where the script runs
  std::string state;  // gets what was learned
  std::string notes;  // gets the files that were asked for (WatchedFiles)
  std::string count;  // is told of the steps that it does; how many there will be is known from the run before; may be
                      // empty
};
// What an earlier run made is taken away first. Returns the script's exit status; 126 when it cannot be watched.
[[nodiscard]] int run_script(const ScriptRun& run);

}  // namespace coctilis::describe::script
