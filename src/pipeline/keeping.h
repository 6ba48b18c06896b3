// Keeps what a description came to between runs: locating, reading and planning are done again only when something
// that they looked at is another.
#pragma once

#include <memory>
#include <string>

#include "base/observed.h"
#include "engine/engine.h"
#include "model/run.h"
#include "record/kept.h"

namespace coctilis::pipeline {

// True when a plan that was kept will not do: something that is to be run hangs on what is there then, and only the
// reader can work that out. Such a plan serves when nothing is to be run.
[[nodiscard]] bool needs_the_reader(const model::Plan& plan, const engine::Request& request);

class Keeping {
 public:
  // Takes what was kept for this run into `run`: findings and plan, or the problem for which its description cannot be
  // followed. False, with the reason in `run.plan_why`, when there is nothing, or not all is as it was; from then on
  // everything that is looked at counts for what is kept next.
  // `environment` is that of the tree's commands.
  bool take(model::Run& run, const std::map<std::string, std::string>& environment);
  [[nodiscard]] bool taken() const { return taken_; }
  // What a plan that was taken hangs on.
  [[nodiscard]] const Observed& observed() const { return taken_observed_; }
  // The run came to a plan: keeps it, unless it was taken.
  void keep(model::Run& run);
  // The description cannot be followed, and another one is: keeps that, so that it need not be read to find out again.
  void refuse(const model::Run& run);
  // What is being worked out cannot be kept.
  void give_up();

 private:
  std::string key_;
  std::size_t findings_ = 0;  // those that were there before
  std::unique_ptr<Observed> observed_;
  std::unique_ptr<Observation> observation_;
  Observed taken_observed_;
  bool taken_ = false;
};

}  // namespace coctilis::pipeline
