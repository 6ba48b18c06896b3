// Which makes recipes have started, so that what only others made, which are started no more, can be taken away.
#pragma once

#include <cstdint>
#include <string>

#include "base/result.h"
#include "model/plan.h"

namespace coctilis::pipeline {

// For what the makes were started: each purpose reaches makes of its own.
enum class Purpose { build, install, check, stage };

// The maker by which recipes are known that a make with the given one runs while it reads its makefiles.
[[nodiscard]] std::uint64_t maker_while_reading(std::uint64_t maker);

// From now on makes are noted for a purpose. `state` is the folder of InnerMake.
void begin_reaching(const std::string& state);
// A make was started, or would do nothing if it were.
void note_reached(const std::string& state, std::uint64_t maker);
// All makes that the purpose needs have been noted.
void end_reaching(const std::string& state, Purpose purpose);
// The description is another: what was reached for other purposes than building it says nothing any more.
void forget_other_purposes(const std::string& state);
// Takes away what only makes have made that nothing reaches any more. `plan` is that of the outermost one.
[[nodiscard]] Result<std::size_t> sweep_unreached(const model::Plan& plan, const std::string& state);

}  // namespace coctilis::pipeline
