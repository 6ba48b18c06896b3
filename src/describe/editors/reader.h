// The readers of project files that editors keep: *.sln, *.vcxproj, *.vcproj, *.cbp, .cproject.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::editors {

// The lines of the table of readers, one for each kind. Errors when they read: a file that is broken or names nothing
// (Exit::description), with its place.
[[nodiscard]] Reader sln_reader();
[[nodiscard]] Reader vcxproj_reader();
[[nodiscard]] Reader vcproj_reader();
[[nodiscard]] Reader cbp_reader();
[[nodiscard]] Reader cproject_reader();

}  // namespace coctilis::describe::editors
