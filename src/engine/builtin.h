// Actions that the engine does itself instead of starting a program.
#pragma once

#include <string>

#include "model/plan.h"

namespace coctilis::engine {

// Does the action; relative paths count from its folder. Nothing outside `work` is written. Returns the exit code that
// the operation stands for and adds what it prints to `output`.
[[nodiscard]] int run_builtin(const model::Action& action, const std::string& work, std::string& output);

}  // namespace coctilis::engine
