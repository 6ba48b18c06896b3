// Options: those that every project has, and those that a project declares.
#pragma once

#include <string>
#include <vector>

#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

// What project(...) sets unless somebody says otherwise: "NAME=VALUE" each. Those of built-in options of a subproject
// count for it alone.
void set_default_options(Evaluator& e, const std::vector<std::string>& defaults);
// Once all are declared: what the user, the project above and the project itself set takes effect, and they are known
// as options of the tree.
void settle_options(Evaluator& e);

}  // namespace coctilis::describe::meson_build
