// This program under the name of a tree's make program.
#pragma once

namespace coctilis::app {
// True when the program was started by that name.
[[nodiscard]] bool called_as_make(const char* name);
[[nodiscard]] int answer_make(int argc, char** argv);
}  // namespace coctilis::app
