// Values for options that were given on the command line stay with a kiln until they are changed or dropped.
#pragma once

#include "base/result.h"
#include "model/run.h"

namespace coctilis::pipeline {

inline constexpr const char* kept_options_name = "options";

// Takes what earlier runs were given by --set into the settings, where this one says nothing else, and keeps what holds
// from now on in the kiln. Fills run.options_in_force. Errors: --unset names what is not kept (Exit::usage).
[[nodiscard]] Result<bool> take_kept_options(model::Run& run);

// Keeps in the kiln what it kept before this run: the description has refused what --set gave, and the next run is not
// to come upon that again. What --unset dropped stays dropped. Throws Fault when it cannot be written (Exit::kiln).
void give_back_options(const model::Run& run);

}  // namespace coctilis::pipeline
