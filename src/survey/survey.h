// Walks a tree once and tells what is in it.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "base/sights.h"
#include "model/settings.h"
#include "model/survey.h"
#include "survey/descriptions.h"

namespace coctilis::survey {

// The first line of the ignore file in an output folder; a folder with it is not part of the tree.
inline constexpr const char* kiln_mark = "# Output of coctilis; version control need not see it.";

[[nodiscard]] bool is_kiln(const std::string& folder);

// Whether the user's settings leave a path (relative to the tree) out of the tree.
[[nodiscard]] bool is_left_out(const model::Settings& settings, const std::string& path);

// The folder that holds the kilns of all labels: `asked` (as --kiln gives it), else TREE/kiln; TREE/.kiln where the
// tree has a folder "kiln" of its own.
[[nodiscard]] std::string kiln_root(const std::string& tree, const std::string& asked);

// Surveys the tree at the absolute path `tree`. `settings` gives the description to follow and what to leave out;
// `formats` are all that are known, with those that can be read among them. Does not follow links. `sights`, if not
// null, gets every file and folder of the tree that was looked at. Errors: no folder there, or one that cannot be read
// (Exit::usage).
[[nodiscard]] Result<model::Survey> survey(const std::string& tree, const model::Settings& settings,
                                           const DescriptionFormats& formats, Sights* sights = nullptr);

}  // namespace coctilis::survey
