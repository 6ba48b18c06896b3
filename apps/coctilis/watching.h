// The same command again whenever something in the tree changes.
#pragma once

#include "commands.h"

namespace coctilis::app {

// Runs the command line, without its --watch, and again at every change, until it is interrupted. Gives the last exit
// code.
[[nodiscard]] int run_at_every_change(Common& common);

}  // namespace coctilis::app
