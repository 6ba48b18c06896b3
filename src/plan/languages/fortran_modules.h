// Modules of Fortran: what a source defines and what it uses (ISO/IEC 1539-1:2018, 11.2 and 14.2), and the order that
// follows for the sources of a unit.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "model/build.h"

namespace coctilis::plan {

// Names are in small letters. A submodule goes by "ANCESTOR@NAME", as compilers name its file.
struct SourceModules {
  std::vector<std::string> defines;
  std::vector<std::string> uses;      // modules, and ancestors and parents of submodules; intrinsic ones are left out
  std::vector<std::string> includes;  // files of INCLUDE lines, as written
};

// True when a source is laid out in fixed form, by the ending of its name or as said.
[[nodiscard]] bool is_fixed_form(const std::string& path, model::SourceForm form);
// True when a source is to be preprocessed, by the ending of its name or as said.
[[nodiscard]] bool is_preprocessed(const std::string& path, model::Preprocessing preprocessing);

// Reads the statements of a source. Lines that begin with '#' are passed over.
[[nodiscard]] SourceModules scan_modules(std::string_view content, bool fixed_form);

// ---- operations of steps (plan/operations.h) -----------------------------------------------------------------------

// Reads a source, follows its INCLUDE lines, writes what it found and a dependency file.
int find_modules(const std::vector<std::string>& words, const std::string& root, std::string& output);
// Reads what was found in the sources of a unit, and the order of units that it uses; writes what needs what
// (engine/learned.h), and takes modules away that nothing defines any more.
int order_modules(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
