// Options of readers that are on or off, where the description itself declares none.
#pragma once

#include <string>

#include "model/project.h"
#include "model/settings.h"

namespace coctilis::describe {

// Whether a switch is on: declared as an option of the project with what `settings` say of it; on if they say nothing.
[[nodiscard]] bool declare_switch(const std::string& name, const std::string& help, const model::Settings& settings,
                                  model::Project& project);

// The switch "tests": whether they are built and run.
[[nodiscard]] bool tests_wanted(const model::Settings& settings, model::Project& project);

}  // namespace coctilis::describe
