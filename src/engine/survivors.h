// Processes that a run left behind when it was killed: they may still write what the next run makes.
#pragma once

#include <sys/types.h>

#include <string>
#include <vector>

namespace coctilis::engine {

// From now on what this process starts can be told to work for `kiln` (absolute): by a variable of its environment.
void mark_children(const std::string& kiln);

// Processes of this user, but for this one and those above it, that work for `kiln`.
[[nodiscard]] std::vector<pid_t> survivors(const std::string& kiln);

// Ends them, and waits until they are gone, at most two seconds. Returns those that are still there.
[[nodiscard]] std::vector<pid_t> end_survivors(const std::string& kiln);

}  // namespace coctilis::engine
