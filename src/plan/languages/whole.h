// What languages share that compile a unit whole.
#pragma once

#include <string>
#include <vector>

#include "plan/languages/language.h"

namespace coctilis::plan {

// A step of the unit as all of them begin: without inputs, outputs and actions.
[[nodiscard]] model::Step whole_step(const model::Unit& unit, model::StepKind kind, const std::string& subject);

// The step that writes the script by which a program is started (starter_script), as the unit's result.
[[nodiscard]] model::Step starter_step(const Planning& planning, const model::Unit& unit, const std::string& what,
                                       const std::vector<std::string>& words);

// An operation of steps (plan/operations.h). FILE TEXT: a script that users can start.
int write_starter(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
