// One invocation with all that its stages learned. The pipeline fills it from top to bottom; the record keeps it.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/outcome.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/requirement.h"
#include "model/settings.h"
#include "model/survey.h"
#include "model/toolchain.h"

namespace coctilis::model {

// What the command line says.
struct RunOptions {
  std::string tree = ".";
  std::string kiln;                   // --kiln
  std::string config;                 // --config
  bool trust = false;                 // --trust
  std::string variant;                // --variant
  std::string toolchain;              // --toolchain
  std::vector<std::string> prefixes;  // --with
  std::vector<std::string> sets;      // --set NAME=VALUE; once the kiln is open, all that hold
  std::vector<std::string> unsets;    // --unset NAME
  bool only_these = false;            // what earlier runs were given does not count
  unsigned jobs = 0;                  // 0: as many as there are processors
  double load = 0;                    // --load; 0: whatever the machine's load is
  // What its user says for all trees; what the command line or the tree says comes first.
  struct ForAllTrees {
    std::string file;  // that says so
    std::vector<std::string> prefixes;
    std::string toolchain;
    std::map<std::string, std::string> kits;  // their prefixes, by name
    std::vector<Mirror> mirrors;
    std::map<std::string, Place> places;  // where it says so, by key; of a kit by "kits.NAME"
  } user;
  bool keep_going = false;
  bool only_looks = false;  // --dry-run: what would be done is told, and not done
  bool colours = false;
  std::vector<std::string> targets;
  std::vector<std::string> checks;
  bool failed_checks = false;   // smoke --failed: those that failed the last time
  bool record_numbers = false;  // smoke --record
  bool debug_checks = false;    // smoke --debug
  bool enters_check = false;    // smoke --shell
  unsigned repeat_checks = 1;   // smoke --repeat
  std::string prefix;           // stage --prefix
  bool rerun = false;           // --rerun
  bool install = false;         // --install: install missing packages, then go on
  // Of a member: files of the whole run, with the leave to run processes (JobTokens) and the count of steps
  // (SharedCount) that all members share.
  std::string shared_tokens;
  std::string shared_count;
};

// A value that was given by --set, in this run or an earlier one in the same kiln.
struct OptionInForce {
  std::string name;
  std::string value;
  bool kept = false;                  // of an earlier run
  std::optional<std::string> before;  // the value that the kiln kept until this run gave another
};

// What a build would do.
struct Due {
  struct One {
    std::size_t step = 0;  // of the plan
    std::string reason;
    bool perhaps = false;  // only if what the steps before it make turns out another
  };
  std::vector<One> steps;
  std::size_t up_to_date = 0;
};

// An earlier run that this one is like in all that it could have come upon: nothing was worked out again.
struct Repeats {
  int run = 0;            // whose record has the rest
  std::size_t steps = 0;  // of its plan that are made by default
  std::size_t up_to_date = 0;
};

// What an [[edit]] of coctilis.toml has changed in the copy that is built.
struct AppliedEdit {
  std::string file;  // from the tree
  int line = 0;      // of the first place; what stood there, and what stands there now
  std::string before;
  std::string after;
  std::size_t places = 0;
  Place place;  // of the [[edit]]
};

enum class Stage { none, survey, locate, plan, build, smoke, stage };

// How long a part of the work took, by the clock.
struct StageTime {
  std::string stage;  // "survey", "tool chain", "sources of needs", "locate", "plan", "build", "smoke", "stage"
  double seconds = 0;
};

// What a run is as one of several members of a tree; all of it empty for one by itself.
struct AsMember {
  std::string name;                   // as coctilis.toml of the whole names it
  std::vector<std::string> needs;     // the names of those that have to be there before it
  double began = 0;                   // seconds since the first of all was begun
  bool not_begun = false;             // what it needs of others is not there; the problem says which
  std::optional<Settings> inherited;  // what its own settings begin with
  std::string settings_folder;        // where its own settings lie; empty: it has none
};

struct Run {
  RunOptions options;
  std::string command;          // the command line, for the record
  std::string started;          // ISO 8601, UTC
  Stage reached = Stage::none;  // the last stage that ended well
  Settings settings;
  std::string tree;  // absolute: what is read and built
  // The user's tree, where `tree` is an edited copy of it; else empty.
  std::string original_tree;
  [[nodiscard]] const std::string& own_tree() const { return original_tree.empty() ? tree : original_tree; }
  std::vector<AppliedEdit> edits;
  std::string kiln_root;  // holds the kilns of all labels
  std::string kiln;
  std::string label;
  Survey survey;
  std::vector<OptionInForce> options_in_force;
  std::vector<std::string> notes;  // what was done with what lay in the kiln
  // What its commands may use besides what all may, and who has allowed it; nothing where `by` is empty.
  struct Allowed {
    bool network = false;
    std::vector<std::string> devices;
    sandbox::Limits limits;  // told; 0: the usual
    std::string by;          // "--trust", "--config", "its user"
  } allowed;
  std::vector<EnvironmentUse> environment;
  std::vector<Toolchain> toolchains;
  Toolchain toolchain;
  std::vector<Finding> findings;          // the tool chain first
  std::vector<Question> questions;        // what the description asked the compiler
  std::vector<std::string> search_order;  // where things are looked for, a line each
  std::vector<std::string> install;       // the command that installs what is missing; empty when nothing is or can be
  std::vector<Mention> mentions;
  std::vector<FindingChange> changes;  // since the run before in the same kiln
  bool compared = false;               // there was such a run
  std::vector<Filled> filled;          // repositories that were brought in
  std::string unpacked_from;           // the archive that the tree came out of
  Project project;
  Plan plan;  // without steps when the run repeats another
  std::optional<Repeats> repeats;
  std::optional<Due> due;     // of a run that only looked
  bool plan_kept = false;     // the description came to this plan in an earlier run, and all it hung on is as it was
  std::string plan_why;       // why the plan was worked out anew
  std::string plan_not_kept;  // why the next run has to work it out anew, too; empty when it need not
  Outcome outcome;
  bool built = false;  // the build ran, well or not
  std::vector<Check> checks;
  bool checked = false;
  Staged staged;
  // Trees with several descriptions: a run for each, in an order in which each comes behind what it needs. This one has
  // no plan then.
  std::vector<Run> members;
  AsMember as_member;
  std::optional<Problem> problem;  // what ended the run
  int number = 0;                  // of the record; 0: none was kept
  double seconds = 0;
  std::vector<StageTime> stages;  // what was done, each once, in its order

  [[nodiscard]] std::size_t count_checks(Verdict verdict) const {
    std::size_t n = 0;
    for (const auto& check : checks) n += check.verdict == verdict ? 1 : 0;
    return n;
  }
  // How many steps its plan has, whoever worked it out.
  [[nodiscard]] std::size_t count_steps() const { return repeats ? repeats->steps : plan.steps.size(); }
  // Whether it has anything to put into a prefix.
  [[nodiscard]] bool installs() const {
    return project.by_recipes ? !project.install_folder.empty() : !plan.install.empty();
  }
  [[nodiscard]] int exit_code() const {
    if (outcome.interrupted_by != 0) return 128 + outcome.interrupted_by;
    return problem ? static_cast<int>(problem->exit) : 0;
  }
};

}  // namespace coctilis::model
