// A run that found everything up to date, kept together with all that it looked at. As long as that is as it was, the
// next run would come to the same: it takes this, and works nothing out.
#pragma once

#include <functional>
#include <string>

#include "base/sights.h"
#include "model/run.h"

namespace coctilis::record {

// The file in a kiln.
inline constexpr const char* standing_name = "standing";

// Keeps what the run came to, and all that it looked at, under `key` (key_of_run). A file that cannot be written is no
// error: the next run works everything out.
void keep_standing(model::Run& run, const std::string& key, const Sights& sights);

// The kiln below `kiln_root` in which a run with that key was kept; empty when there is none. `checks`: it has to have
// all that checks need, which is not so where the programs were made by recipes.
[[nodiscard]] std::string find_standing(const std::string& kiln_root, const std::string& key, bool checks);

// Puts what was kept in `kiln` under `key` into the run: survey, tool chain, findings and plan without its steps, and
// which run it repeats. False, with the run as it was, when there is nothing, it is damaged, something is another than
// it was seen, or that plan `will_do` not.
[[nodiscard]] bool take_standing(const std::string& kiln, const std::string& key, model::Run& run,
                                 const std::function<bool(const model::Plan&)>& will_do);

}  // namespace coctilis::record
