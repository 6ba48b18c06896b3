// A build for another machine runs some of its own programs while it goes on (one that writes a table, say). Those are
// made a second time, for this machine.
#pragma once

#include "model/plan.h"
#include "model/toolchain.h"

namespace coctilis::plan {

// True when a step of the plan runs a program that the plan makes.
[[nodiscard]] bool runs_own_programs(const model::Plan& plan);

// Takes over from `host_plan` (the same project planned with `host`) the steps that make programs which steps of `plan`
// run, with all they need, into work/.host; and has those steps run them. What rules generate is shared by both. Throws
// Fault (Exit::missing) when such a program needs a library that is not there for this machine.
void use_host_tools(model::Plan& plan, const model::Plan& host_plan, const model::Toolchain& host);

}  // namespace coctilis::plan
