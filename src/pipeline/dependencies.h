// What a tree needs and is built from source first: [[need]]s that name a [[source]]. Each is brought up like a member,
// installed into a prefix in the user's cache that is kept by content, so that it is built once for all trees, and
// found there by all kinds of descriptions.
#pragma once

#include "pipeline/bringup.h"

namespace coctilis::pipeline {

// Gives every such need its prefix. The tool chain and the kiln are known. With a watcher what is not in the cache yet
// is built, and the watcher told; without one (null) such needs stay without. False with run.problem: a source that is
// not there (Exit::missing), one that cannot be brought up (its own exit code), two that need each other
// (Exit::description).
[[nodiscard]] bool build_dependencies(model::Run& run, Watcher* watcher);

}  // namespace coctilis::pipeline
