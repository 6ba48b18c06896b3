// The text of Fortran sources, as far as it tells what has to come before what (ISO/IEC 1539-1:2018, 6.3, 11.2, 14.2).
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace coctilis::survey {

// Names are in small letters. A submodule goes by "ANCESTOR@NAME", as compilers name its file.
struct SourceModules {
  std::vector<std::string> defines;
  std::vector<std::string> uses;      // modules, and ancestors and parents of submodules; intrinsic ones are left out
  std::vector<std::string> includes;  // files of INCLUDE lines, as written
};

// Reads the statements of a source. Lines that begin with '#' are passed over.
[[nodiscard]] SourceModules scan_modules(std::string_view content, bool fixed_form);

// Whether compilers take a source of that name for fixed form, and whether they preprocess it.
[[nodiscard]] bool has_fixed_ending(const std::string& path);
[[nodiscard]] bool has_preprocessed_ending(const std::string& path);

// Whether the lines of a source are laid out in fixed form: as its name says, unless nothing in them fits that and
// something fits the other.
[[nodiscard]] bool is_laid_out_fixed(const std::string& path, std::string_view content);

}  // namespace coctilis::survey
