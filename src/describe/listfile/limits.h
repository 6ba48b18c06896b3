// How far a description may go before it is taken for one without end.
#pragma once

#include <cstdint>

namespace coctilis::describe::listfile {

struct Limits {
  std::uint64_t commands = 1'000'000'000;     // commands run and rounds of loops
  std::uint64_t memory_bytes = 16ULL << 30U;  // resident memory of this program
  std::uint64_t names = 2'000'000;            // that file(GLOB ...) looks at, in all calls
};

}  // namespace coctilis::describe::listfile
