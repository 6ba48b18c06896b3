// Methods of the modules that have a file of their own.
#pragma once

#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

[[nodiscard]] const MethodTable& gnome_methods();          // module_gnome.cpp
[[nodiscard]] const MethodTable& python_module_methods();  // module_python.cpp

}  // namespace coctilis::describe::meson_build
