// Trees of several descriptions: each is a member, brought up as a tree of its own in the order that coctilis.toml
// gives, and sees what those before it install.
#pragma once

#include "model/run.h"
#include "pipeline/bringup.h"

namespace coctilis::pipeline {

// Brings up run.settings.components, one run each in run.members. The kiln of `run` is open: the members' kilns lie in
// its folder members/, what each installs in a prefix in installed/ there, and links to their results in bin/ and lib/.
// Where one fails those behind it are not begun, unless the user wants to go on; run.problem says which. Errors: a
// component that is not there, or that is named twice (Exit::usage).
bool bring_up_members(model::Run& run, const Wish& wish, Watcher& watcher);

// Reads each of them as far as its plan (read_only), with what earlier runs have installed of those before it.
bool read_members(model::Run& run);

}  // namespace coctilis::pipeline
