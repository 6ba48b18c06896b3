// What a Java source says of itself before it is compiled.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis::describe::java {

struct SourceFacts {
  std::string package;  // empty: none
  std::vector<std::string>
      imports;               // as they stand: "brick.clay.Clay", "brick.clay.*"; and names with dots in the code
  std::size_t imported = 0;  // how many of these import statements name: the first; others may be no classes at all
  bool has_main = false;     // public static void main(String...)
  bool is_module_info = false;
};

// Comments, texts and characters are passed over (The Java Language Specification, 3.7, 3.10). Never fails: what is no
// Java says nothing.
[[nodiscard]] SourceFacts facts_of_source(std::string_view text);

// What sources say, each of which is read once.
class SourcesRead {
 public:
  const SourceFacts& of(const std::string& path);  // absolute

 private:
  std::map<std::string, SourceFacts> facts_;
};

}  // namespace coctilis::describe::java
