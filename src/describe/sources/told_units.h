// Targets in languages that coctilis.toml tells of, as units: every command with its words worked out.
#pragma once

#include <vector>

#include "describe/read_request.h"
#include "model/project.h"
#include "model/settings.h"

namespace coctilis::describe::sources {

// Whether a target is of such a language. Throws Fault (Exit::usage): only some of its sources are.
[[nodiscard]] bool is_told(const model::SourceTarget& target, const model::Settings& settings);

// What the tree's sources in these languages come to where no target is named: a program for each that has a line with
// which one begins, of objects all others besides; an archive where none has. Throws Fault (Exit::usage) where that is
// not enough to tell.
[[nodiscard]] std::vector<model::SourceTarget> told_targets(const ReadRequest& request);

// Adds the units of `targets`, all of such languages, to `build` and `project`. `others`: the targets that are not,
// whose archives may be used. Asks the locator for compilers, files and what starts programs. Throws Fault
// (Exit::usage) with the place of a target that cannot be made.
void add_told_units(const std::vector<model::SourceTarget>& targets, const std::vector<model::SourceTarget>& others,
                    const ReadRequest& request, model::Project& project, model::Build& build);

}  // namespace coctilis::describe::sources
