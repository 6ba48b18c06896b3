// The checks of a run, and those of a whole that has members.
#pragma once

#include <functional>
#include <string>

#include "model/run.h"
#include "smoke/smoke.h"

namespace coctilis::pipeline {

// Who is told of checks: each result, and of a check, or a part of one, that begins.
struct CheckListener {
  std::function<void(const model::Check&)> ended;
  std::function<void(const std::string&)> begun;
};

// Instead of making a check, opens what it runs in for `stay` (smoke::enter_check). False when that cannot be;
// run.problem says why.
bool enter_check(model::Run& run, const std::function<void(const smoke::Entered&)>& stay);

// Makes the checks that the command line asks for. False when one failed; run.problem says so.
bool smoke(model::Run& run, const CheckListener& listener);

// Makes the [[smoke]] and [[service]] checks of a whole, which may run the programs of all members; adds them to
// run.checks. False when one failed; true also when there are none.
bool smoke_whole(model::Run& run, const CheckListener& listener);

}  // namespace coctilis::pipeline
