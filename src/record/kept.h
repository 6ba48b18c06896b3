// What a description came to, kept in the kiln: a later run takes it again as long as all that it hung on is as it was.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/observed.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/requirement.h"
#include "model/run.h"

namespace coctilis::record {

struct Kept {
  model::Project project;  // without `late`
  std::vector<model::Finding> findings;
  std::vector<model::Mention> mentions;
  std::vector<std::string> search_order;
  std::vector<model::Question> questions;
  model::Plan plan;
  std::optional<Problem> refused;  // why there is no plan: the description cannot be followed
};

// All that a plan hangs on besides files and commands: this program, the settings, the tool chain, the environment, and
// what of the survey has a say. Two runs with different keys have nothing to do with each other.
[[nodiscard]] std::string key_of(const model::Run& run, const std::map<std::string, std::string>& environment);
// All that a whole run hangs on besides files and commands: this program, the settings, the environment, and where the
// kilns of the tree are.
[[nodiscard]] std::string key_of_run(const model::Run& run);
// The same for anything else that can be put into one text.
[[nodiscard]] std::string key_of(const std::string& text);

// Writes `kept` to `path`. Nothing is written, and what was there is removed, when `observed` does not settle; then it
// says why. Also when the file cannot be written: a later run works things out again.
std::string keep(const std::string& path, const std::string& key, Observed& observed, const Kept& kept);

struct Taken {
  std::optional<Kept> kept;
  Observed observed;    // what it hung on
  std::string why_not;  // in a few words, for people
};
// What was kept at `path` under the same key, if all it hangs on is as it was. `follow` brings a folder in step with
// the one that it follows (Observed::follows), before anything else is looked at; false: nothing can be taken.
[[nodiscard]] Taken take(const std::string& path, const std::string& key,
                         const std::function<bool(const std::string& from, const std::string& to)>& follow);

}  // namespace coctilis::record
