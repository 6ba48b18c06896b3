// What a description installs, with its expressions worked out: files, folders, targets and the files by which other
// trees find them.
#pragma once

#include <string>

#include "model/plan.h"
#include "model/project.h"
#include "plan/artifacts.h"
#include "plan/expression.h"

namespace coctilis::plan {

// Fills plan.install from the install rules, and plan.files with what export() writes for the build folder. The targets
// of the plan must be complete. Rules that are not followed (scripts and code that run while installing) are added to
// plan.not_installed. Errors: a target that is not declared, a rule without destination (throws Fault).
void plan_install(const model::Project& project, const Artifacts& artifacts, const Expressions& expressions,
                  model::Plan& plan);

}  // namespace coctilis::plan
