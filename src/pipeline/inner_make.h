// Answers a tree that calls its make program: recipes that start it again, and scripts that count on one. The program
// is this one; it shares the job tokens of the run that started it and tells it what it did.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "describe/makefile/make.h"
#include "describe/read_request.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::pipeline {

// What inner makes are told by the environment, and what is set up for them.
struct InnerMake {
  std::string state;    // absolute: what was kept and done
  std::string root;     // absolute: the only folder that recipes of the tree have a claim on, a mirror of the tree
  std::string tree;     // absolute: the tree itself
  std::string journal;  // absolute: of all makes of the kiln
  std::vector<std::string> compiler_folders;  // as in model::Plan
  unsigned jobs = 1;                          // processes at once
  std::string shared_tokens;                  // of a run that this one is a part of; empty: it is none
  [[nodiscard]] std::string tokens() const { return state + "/tokens"; }  // leave to run one more process (JobTokens)
  [[nodiscard]] std::string count() const { return state + "/count"; }    // the file of the shared count of steps
};

// The plan of one call of make, with all that has to live as long as it.
struct PreparedMake {
  std::unique_ptr<describe::makefile::Make> make;  // null when the plan is one that was kept
  std::vector<model::Recipe> recipes;              // as long as there is `make`
  model::Plan plan;
  std::vector<std::string> messages;
  std::vector<Problem> warnings;
};
// Works out what a call of make comes to; `call` has the program and the root already. What it came to is kept below
// the state folder and taken from there as long as all it hung on is as it was, if `may_take`. Throws Fault.
[[nodiscard]] PreparedMake prepare_make(describe::makefile::Call call, const InnerMake& inner, bool may_take);

// What readers are lent for a mirror: recipes run as steps of `plan`, which has everything but steps; what they are
// made of goes to its journal.
[[nodiscard]] describe::Services services_for(const model::Plan& plan);

// Makes the folder `state` with a "make" that is `program`, and the tokens; `environment` gets what commands are to
// have. Throws Fault (Exit::kiln).
void set_up_inner_make(const InnerMake& inner, const std::string& program,
                       std::map<std::string, std::string>& environment);

// Does what a make called with `words` in `folder` would. `standard_input` is asked for a
// makefile that is given as "-". `print` gets what it says, and whether that is a complaint.
// Returns the exit status: 0 done, 1 with -q when something is out of date, 2 for failures.
[[nodiscard]] int answer_make(const std::vector<std::string>& words,
                              const std::map<std::string, std::string>& environment, const std::string& folder,
                              const std::function<std::string()>& standard_input,
                              const std::function<void(const std::string& text, bool complaint)>& print);

// True when all calls of make that a step made in its last run (`calls` is where they were noted) would find nothing to
// do. False when that cannot be told.
[[nodiscard]] bool calls_are_settled(const std::string& calls);

// What inner makes did since the last time: steps with their results, in the order in which they ended.
void take_inner_steps(const std::string& state, std::vector<model::Step>& steps,
                      std::vector<model::StepResult>& results);

}  // namespace coctilis::pipeline
