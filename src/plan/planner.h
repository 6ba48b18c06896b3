// Turns a project into steps.
#pragma once

#include "base/result.h"
#include "model/plan.h"
#include "model/project.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::plan {

// Works out every step. `kiln` is the output folder of the label; results lie below kiln/work. Nothing is written.
// Errors: a source that is not there, a target that is not declared, an expression that is not understood
// (Exit::description). `host` is the tool chain of this machine, for a build that is for another one: programs of the
// tree that its own steps run are made with it. May be null: then they are run as they are.
[[nodiscard]] Result<model::Plan> make_plan(const model::Project& project, const model::Toolchain& toolchain,
                                            const model::Settings& settings, const std::string& kiln,
                                            const model::Toolchain* host = nullptr);

// The JSON compilation database of the plan (format as documented by the Clang project), ready to be written.
[[nodiscard]] std::string compile_database(const model::Plan& plan);

// The steps that make `names` (targets, or files) and all that they need; every default step when it is empty.
// Errors: a name that is neither (Exit::usage).
[[nodiscard]] Result<std::vector<bool>> select_steps(const model::Plan& plan, const std::vector<std::string>& names);

}  // namespace coctilis::plan
