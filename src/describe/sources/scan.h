// What a source says of itself before any compiler has read it: which headers it includes and on which condition, and
// which Fortran modules it defines and uses.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace coctilis::describe::sources {

struct Included {
  std::string name;  // as it stands there
  bool quoted = false;
  int line = 0;
  std::string condition;  // the innermost #if, #ifdef or #ifndef around it but for a guard of the whole file; or empty
};

struct Scanned {
  // Without those for other systems (#ifdef _WIN32) and those that are switched off (#if 0).
  std::vector<Included> includes;
  // Names that conditions ask for: HAVE_UNISTD_H.
  std::vector<std::string> asked;
  std::vector<std::string> defines_modules;  // in lower case
  std::vector<std::string> uses_modules;     // submodules and what they belong to among them
  bool directives = false;                   // lines of the preprocessor
};

// `fortran`: the text is in that language, and `fixed` in fixed form; else in C, C++ or assembler with the
// preprocessor.
[[nodiscard]] Scanned scan(std::string_view content, bool fortran, bool fixed = false);

}  // namespace coctilis::describe::sources
