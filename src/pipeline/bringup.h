// A run from its first stage to the one that is asked for, with what is done when a stage fails and there is another
// way: a description that cannot be followed gives way to the next, a build that may not write into its tree is done
// again in a copy, missing packages are installed when the user said so. Whoever shows the run is told of each step.
#pragma once

#include <cstdint>
#include <string>

#include "engine/engine.h"
#include "model/run.h"
#include "pipeline/pipeline.h"
#include "smoke/smoke.h"
#include "survey/fill.h"

namespace coctilis::pipeline {

// How far a run goes.
enum class Goal { survey, locate, options, plan, build, smoke, stage };

// Is told what happens, and asked what only a person knows. All texts are whole sentences or parts of them, without
// layout.
class Watcher {
 public:
  virtual ~Watcher() = default;
  // What goes on now; "" when that has come to its end.
  virtual void doing(const std::string& what) = 0;
  // Something was decided that a user should know of.
  virtual void noted(const std::string& text) = 0;
  // A stage has come to its end, well or not: what it found is in the run.
  virtual void unpacked(const model::Run& run) = 0;
  virtual void surveyed(const model::Run& run) = 0;
  virtual void located(const model::Run& run, bool good) = 0;
  virtual void planned(const model::Run& run, bool good) = 0;
  virtual void looked(const model::Run& run) = 0;
  virtual void built(const model::Run& run, bool good) = 0;
  virtual void checked(const model::Run& run, bool good) = 0;
  virtual void staged(const model::Run& run) = 0;
  // The surroundings of a check are open, as they were asked for; they are gone when this returns.
  virtual void entered(const smoke::Entered& check) = 0;
  // One check has ended.
  virtual void check_ended(const model::Check& check) = 0;
  // What follows, up to its end, is of a member of the tree: its stages are told when it is over.
  virtual void member_begun(const model::Run& member) = 0;
  // It has ended, or could not be begun.
  virtual void member_ended(const model::Run& member) = 0;
  // Whether what is missing of other repositories is to be brought in.
  [[nodiscard]] virtual bool asks_to_fill(const model::Run& run) = 0;
  // Whether commands of the tree may use `what`, which it asks for: "the network", "/dev/dri".
  [[nodiscard]] virtual bool asks_to_allow(const std::string& what) = 0;
  // Who is told how filling goes on, and how the build does. Both live as long as this does.
  [[nodiscard]] virtual survey::FillObserver& filling() = 0;
  [[nodiscard]] virtual engine::Observer& building(const model::Run& run) = 0;
};

struct Wish {
  Goal goal = Goal::smoke;
  bool fill = false;         // bring in what is missing of other repositories, unasked
  bool may_repeat = true;    // a run that would come upon nothing new may repeat an earlier one
  bool on_terminal = false;  // a password can be asked for
};

// Runs the stages up to the goal; keeps a record of a run that built. False when it ended with run.problem.
bool bring_up(model::Run& run, const Wish& wish, Watcher& watcher);

// Reads the tree, and each of its members in run.members, as far as the plan; nothing is built or installed, so that a
// member finds of those before it what earlier runs have installed. False when the tree itself cannot be read; what
// ends a reading before its plan is in the problem of its run.
bool read_only(model::Run& run);

}  // namespace coctilis::pipeline
