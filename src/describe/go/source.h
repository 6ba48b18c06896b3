// What a Go source says of itself before it is compiled, and whether it is one for this machine.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis::describe::go {

struct SourceFacts {
  std::string package;               // empty: it is no Go
  std::vector<std::string> imports;  // each once, in order
  std::vector<std::string> embeds;   // patterns of //go:embed, as they stand
  std::string constraint;            // of //go:build, else what +build lines come to; empty: none
  std::vector<std::string> cgo;      // lines behind #cgo, where it imports "C"
  bool uses_c = false;               // it imports "C"
  std::map<std::string, int> lines;  // where imports, patterns and the constraint stand (from 1), by their text
  std::string problem;               // what is wrong with its beginning; empty: nothing
};

// The Go Programming Language Specification, "Packages"; build constraints as the documentation of go/build has them.
[[nodiscard]] SourceFacts facts_of_source(std::string_view text);

// Whether a tag holds: "linux", "amd64", "go1.18", ...
using HasTag = std::function<bool(const std::string&)>;
// An expression of tags with !, &&, || and brackets. One that cannot be read does not hold; `problem` says why.
[[nodiscard]] bool holds(const std::string& expression, const HasTag& has, std::string& problem);
// Whether the name of a file lets it be built: "x_linux_amd64.go" for these only. `test` says whether it is one for
// tests.
[[nodiscard]] bool name_fits(const std::string& name, const std::string& system, const std::string& processor,
                             bool& test);

}  // namespace coctilis::describe::go
