// Files that a description writes once all targets are known.
#pragma once

#include "describe/listfile/lower/expression.h"
#include "model/build.h"

namespace coctilis::describe::listfile::lower {

// Works them out and puts them into build.files. Throws Fault (Exit::description) for one outside of the output folder,
// for a target that is none, and for one path with two texts.
void lower_generated_files(const Declared& project, const Expressions& expressions, model::Build& build);

}  // namespace coctilis::describe::listfile::lower
