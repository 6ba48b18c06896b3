// Parts of a tool chain or of the C library that descriptions ask for by name (the table's [[compiler-part]]): a
// program that is compiled and linked tells whether they are there, and under which option.
#pragma once

#include <string>

#include "locate/known.h"
#include "locate/locator.h"

namespace coctilis::locate {

struct CompilerPart {
  bool found = false;
  std::string option;          // under which it is there; empty: without one
  bool compiled_with = false;  // the option is for compiling, too
  // How it is used with that option.
  [[nodiscard]] model::Usage usage() const;
};

// Asks the compiler of `language` ("C", "C++", "Fortran"). What `asked` names (variable, place) is kept with the
// questions.
[[nodiscard]] CompilerPart look_for(Locator& locator, const KnownCompilerPart& part, const std::string& language,
                                    const model::Question& asked);

}  // namespace coctilis::locate
