// What sources of tests in Go have to be called.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace coctilis::describe::go {

// A function of a test file that whoever runs its tests calls.
struct TestFunction {
  enum class Kind { test, benchmark, fuzz_target, example, main };
  Kind kind = Kind::test;
  std::string name;
  // Of an example: what it has to write, where its last comment says so.
  bool has_output = false;
  bool any_order = false;  // of the lines
  std::string output;

  // Whether something is tried by it.
  [[nodiscard]] bool runs() const { return kind == Kind::test || kind == Kind::fuzz_target || has_output; }
};

// Those of a source, in order, as the documentation of the package "testing" has them: TestX(*testing.T),
// BenchmarkX(*testing.B), FuzzX(*testing.F), ExampleX(), TestMain(*testing.M), where X does not begin with a small
// letter. Functions that have such a name and take something else are none.
[[nodiscard]] std::vector<TestFunction> test_functions_of(std::string_view text);

// A text as it stands in a source.
[[nodiscard]] std::string as_text(std::string_view text);

}  // namespace coctilis::describe::go
