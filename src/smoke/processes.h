// What running programs do, as the system tells (proc(5)): where they listen, and what they wait for.
#pragma once

#include <sys/types.h>

#include <set>
#include <string>
#include <vector>

namespace coctilis::smoke {

// A process and all that it has started, directly or not, itself first.
[[nodiscard]] std::vector<pid_t> with_descendants(pid_t pid);

// The TCP ports on which these listen, in the network that they are in.
[[nodiscard]] std::set<int> listening_ports(pid_t pid);

// What the last of them that was started waits for, in a few words: "standard input, to which nobody writes", "a
// connection to 127.0.0.1:4711", "nothing: it computes". Empty when the system does not tell.
[[nodiscard]] std::string what_it_waits_for(pid_t pid);

}  // namespace coctilis::smoke
