// Files that a description writes once all targets are known.
#pragma once

#include "model/plan.h"
#include "plan/expression.h"

namespace coctilis::plan {

// Works them out and puts them into plan.files. Throws Fault (Exit::description) for one outside of the output folder,
// for a target that is none, and for one path with two texts.
void add_generated_files(const model::Project& project, const Expressions& expressions, model::Plan& plan);

}  // namespace coctilis::plan
