// What a test prints by the Test Anything Protocol: a plan, and a line for each of its points.
#pragma once

#include <cstddef>
#include <optional>
#include <string>

namespace coctilis::smoke {

// The points that the lines of an output tell of (Test Anything Protocol, versions 12 to 14). What is indented belongs
// to a point (a test inside it, its details) and does not count by itself.
struct TestLines {
  std::optional<std::size_t> planned;  // "1..N"; nothing: no line has it
  std::string skipped_because;         // of "1..0 # skip reason": the reason, or "it says so itself"
  std::size_t points = 0;              // "ok" and "not ok"
  std::size_t skipped = 0;             // those with "# SKIP"
  std::string first_failure;           // the first "not ok" that is neither to be done ("# TODO") nor skipped
  std::string given_up;                // "Bail out!", with its reason
};

[[nodiscard]] TestLines test_lines(const std::string& output);

}  // namespace coctilis::smoke
