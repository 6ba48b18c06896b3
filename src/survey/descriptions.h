// The table of file formats that describe a build.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "model/survey.h"

namespace coctilis::survey {

struct DescriptionFormat {
  std::string_view name;    // the name of the file, or a pattern with *
  std::string_view format;  // what users see
  bool root_only = true;    // counts only in the top folder of a tree
  int rank = 0;             // among readable ones the lowest is followed
};

// A new reader adds its formats here and itself to describe/readers.cpp.
[[nodiscard]] const std::vector<DescriptionFormat>& description_formats();

// The format of a file of the tree by its relative path, or nullptr.
[[nodiscard]] const DescriptionFormat* description_format(std::string_view relative_path);

// Marks the one that will be followed and says why, for all. `wanted` is the file named in coctilis.toml, or empty;
// `readable` are the formats with a reader; `tree` is where the paths count from. Returns a Problem if `wanted` is not there or cannot be read.
[[nodiscard]] Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                              const std::vector<std::string>& readable, const std::string& tree);

// Whether a configure script was generated, by the beginning of its text; else somebody wrote it.
[[nodiscard]] bool is_generated_script(std::string_view beginning);

}  // namespace coctilis::survey
