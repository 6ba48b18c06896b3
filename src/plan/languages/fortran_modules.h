// Modules of Fortran: what a source defines and what it uses (ISO/IEC 1539-1:2018, 11.2 and 14.2), and the order that
// follows for the sources of a unit.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "model/build.h"

namespace coctilis::plan {

// True when a source is laid out in fixed form, by the ending of its name or as said.
[[nodiscard]] bool is_fixed_form(const std::string& path, model::SourceForm form);
// True when a source is to be preprocessed, by the ending of its name or as said.
[[nodiscard]] bool is_preprocessed(const std::string& path, model::Preprocessing preprocessing);

// ---- operations of steps (plan/operations.h) -----------------------------------------------------------------------

// Reads a source, follows its INCLUDE lines, writes what it found and a dependency file.
int find_modules(const std::vector<std::string>& words, const std::string& root, std::string& output);
// Reads what was found in the sources of a unit, and the order of units that it uses; writes what needs what
// (engine/learned.h), and takes modules away that nothing defines any more.
int order_modules(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
