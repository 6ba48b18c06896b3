// A command on a terminal of its own, which is shown on the user's.
#pragma once

#include <functional>

#include "base/process.h"

namespace coctilis::app {

// Runs the command to its end. On a terminal it gets another that this program stands behind: what it runs has neither
// the user's terminal nor a way to type on it. Without a terminal it reads what comes in on standard input. `meanwhile`
// is called again and again; may be empty.
Ended run_for_person(Command command, const std::function<void()>& meanwhile);

}  // namespace coctilis::app
