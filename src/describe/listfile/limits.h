// How far a description may go before it is taken for one without end.
#pragma once

#include <cstdint>

namespace coctilis::describe::listfile {

struct Limits {
  std::uint64_t commands = 1'000'000'000;       // commands run and rounds of loops
  std::uint64_t memory_bytes = 1792ULL << 20U;  // resident memory of this program
  std::uint64_t names = 2'000'000;              // that file(GLOB ...) looks at, in all calls
};

// What is written down in one file, and what a text that is worked out may come to.
inline constexpr std::uint64_t most_file_bytes = 64ULL << 20U;
inline constexpr std::uint64_t most_text_bytes = 64ULL << 20U;
inline constexpr std::size_t most_words = 4'000'000;  // of one call, and of one file

}  // namespace coctilis::describe::listfile
