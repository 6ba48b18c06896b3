// What a description installs, with its expressions worked out: files, folders, targets and the files by which other
// trees find them.
#pragma once

#include <string>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/artifacts.h"
#include "describe/listfile/lower/expression.h"

namespace coctilis::describe::listfile::lower {

// Fills build.install from the install rules, and build.files with what export() writes for the build folder. Rules
// that are not followed (scripts and code that run while installing) are added to build.not_installed. Errors: a target
// that is not declared, a rule without destination (throws Fault).
void lower_install(const Declared& project, const Artifacts& artifacts, const Expressions& expressions,
                   model::Build& build);

}  // namespace coctilis::describe::listfile::lower
