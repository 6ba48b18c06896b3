// Recipes of makefiles as steps of a plan.
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"
#include "model/project.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::plan {

// The commands of a recipe's lines, ready to be run.
[[nodiscard]] std::vector<model::Action> actions_of(const model::Recipe& recipe);

// What a plan of the description's own recipes has besides steps: where they remember what they are made from, and
// where its compilers look for headers. plan.kiln is known.
void place_recipes(model::Plan& plan, const std::string& tree, const model::Toolchain& toolchain,
                   const model::Settings& settings);
// Where compilers that recipes call look for headers by themselves: in prefixes that the user points at first.
[[nodiscard]] std::vector<std::string> header_folders(const model::Toolchain& toolchain,
                                                      const model::Settings& settings);

// Appends a step for each recipe, with what is understood of its commands, and the targets that they make: programs
// and libraries that are linked or archived. `root`: the folder that the recipes work in, as it stands for the tree.
// Dependencies that compilers find go to plan.kiln/dependencies.
void add_recipes(const std::vector<model::Recipe>& recipes, const std::string& root, model::Plan& plan);

// Programs and libraries among files that a build made (absolute), which no target of the plan is known for yet: they
// become targets of their own. Links to them become further names.
void add_found_targets(const std::vector<std::string>& made, model::Plan& plan);

// Fills plan.shown: where finished programs and libraries are shown, whatever folder they are made in.
void show_targets(model::Plan& plan);

}  // namespace coctilis::plan
