// A run that would come upon nothing else than the one before it works nothing out, and repeats what that one came to.
#pragma once

#include <memory>
#include <string>

#include "base/observed.h"
#include "base/sights.h"
#include "engine/kiln.h"
#include "model/run.h"
#include "pipeline/keeping.h"

namespace coctilis::pipeline {

class Repeating {
 public:
  // To be called once the settings are known, before anything else. True when the run repeats an earlier one: then it
  // holds the kiln, and its survey, tool chain, findings and plan (without steps) are filled in. `checks`: the run goes
  // on to make checks. Errors: the kiln cannot be opened.
  Result<bool> take(model::Run& run, bool checks, std::shared_ptr<engine::KilnLock>& lock);
  // From here on what is looked at counts for the run that may be repeated, until `seen`.
  void begin();
  void seen();
  // Where the survey and the engine put what they look at; null: this run is none that could be repeated.
  [[nodiscard]] Sights* sights() { return active_ ? &sights_ : nullptr; }
  // What this run does cannot be repeated by looking at files.
  void give_up();
  // The run has ended and has its record: keeps it if everything was up to date.
  void keep(model::Run& run, const Keeping& plan);

 private:
  void see_what_is_installed(const model::Run& run);

  bool active_ = false;
  std::string key_;
  Sights sights_;
  std::unique_ptr<Observed> observed_;
  std::unique_ptr<Observation> observation_;
};

}  // namespace coctilis::pipeline
