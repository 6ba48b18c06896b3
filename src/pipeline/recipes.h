// What stages do besides for descriptions that are made of recipes.
#pragma once

#include "base/result.h"
#include "engine/engine.h"
#include "model/run.h"

namespace coctilis::pipeline {

// What the engine has to ask while it runs recipes.
void prepare_for_recipes(model::Run& run, engine::Request& request);
// After the build: steps of inner makes, what the tree's own "install" puts in place, and programs and libraries that
// only show once they are there. Throws Fault.
void add_what_recipes_made(model::Run& run);
// Installs by the makefile's own target "install", which may write in the prefix, the kiln and among temporary files
// only. Errors: there is none (Exit::description), it fails (Exit::step).
[[nodiscard]] Result<bool> stage_by_recipe(model::Run& run);

}  // namespace coctilis::pipeline
