// Where a program is when it crashes or hangs: it is run once more under the debugger (gdb), if there is one.
#pragma once

#include <string>
#include <vector>

#include "base/process.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

// What the debugger tells of all threads where the program comes to its end by a signal, or where it is when `limit`
// seconds are over. Empty: nothing, as when it ends by itself, there is no debugger, or it is another machine's
// program. `program`: the one of the command's words that is debugged.
[[nodiscard]] std::string backtrace(const Runner& runner, Command command, const std::string& program, double limit);

// The frames of the thread that the trouble is in, the innermost first, without those of the system's libraries that
// only end the program: "fire_up (kiln.c:42)". Paths below `tree` count from it. At most `most`.
[[nodiscard]] std::vector<std::string> frames_in(const std::string& backtrace, const std::string& tree,
                                                 std::size_t most = 5);

}  // namespace coctilis::smoke
