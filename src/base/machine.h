// The machine that this program runs on.
#pragma once

#include <string>

namespace coctilis {

// As compilers of it name it, as far as the first part goes ("x86_64").
[[nodiscard]] std::string host_processor();

}  // namespace coctilis
