// This program itself: it calls itself for much that has to happen in a process of its own, and what it has worked out
// counts for this one build of it only.
#pragma once

#include <string>

namespace coctilis {

// The absolute path of the running program; empty when the system does not tell (proc(5)).
[[nodiscard]] std::string own_program();

// What tells this build of the program, on this machine, from another: another may understand descriptions otherwise,
// and descriptions ask about the machine. Empty when the system does not tell.
[[nodiscard]] std::string own_identity();

}  // namespace coctilis
