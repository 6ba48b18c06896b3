// What is found out about a program of a check that failed.
#pragma once

#include <string>

#include "base/process.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

// Adds cause, remedy and evidence to the judgement, where something is known. `program`: the one that is checked;
// `folder`: where it ran; `is_asked`: the check is one of coctilis.toml. To be called while what the program left is
// still there.
void find_cause(Judgement& judgement, const Runner& runner, const Command& command, const std::string& program,
                const std::string& folder, const Observation& seen, bool is_asked);

}  // namespace coctilis::smoke
