// Documents that a build makes besides its programs: a machine that cannot make them can still build the rest.
#pragma once

#include <string>

#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::engine {

// True when all that the step makes are documents: manuals, pages, printed forms.
[[nodiscard]] bool makes_documents(const model::Step& step);
// The program that a failed step lacked; empty when that was not the reason. Shells tell of a program that is not there
// by exit code 127 (POSIX.1-2024, XCU 2.8.2).
[[nodiscard]] std::string missing_tool(const model::StepResult& result);

}  // namespace coctilis::engine
