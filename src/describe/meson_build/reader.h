// The reader of meson.build files.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::meson_build {

// The line of the table of readers. Errors when it reads: what is not understood, with its place (Exit::description).
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::meson_build
