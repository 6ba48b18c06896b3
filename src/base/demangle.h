// Names of C++ as the linker knows them, made readable.
#pragma once

#include <string>

namespace coctilis {

// "_ZN4clay4fireEi" is "clay::fire(int)" (Itanium C++ ABI, 5.1); any other name stays as it is.
[[nodiscard]] std::string demangled(const std::string& symbol);

}  // namespace coctilis
