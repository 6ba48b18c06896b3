// Files that say how a tree is built: which there are, and the choice among them. What formats there are, the readers
// tell (describe/readers.h); here are those that nobody reads yet.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "model/survey.h"

namespace coctilis::survey {

// A name that files of a format have.
struct DescriptionName {
  std::string_view pattern;  // the name of the file, or a pattern with *
  int rank = 0;              // of the descriptions in one folder that can be read the lowest is followed
};

struct DescriptionFormat {
  std::string_view format;  // what users see
  std::vector<DescriptionName> names;
  bool readable = false;
  // Whether a file that the user names as the description is of this format, whatever it is called; may be null.
  // `path` is absolute.
  bool (*is_one)(const std::string& path) = nullptr;
  // Programs that build by such files: they do this program's work, and are never started.
  std::vector<std::string_view> programs;
};
using DescriptionFormats = std::vector<DescriptionFormat>;

// Formats that are known by name only.
[[nodiscard]] const DescriptionFormats& unread_formats();

// The name of a format that a file in the top folder of a tree has; nullptr for none. `format`, when not null, gets the
// format.
[[nodiscard]] const DescriptionName* description_name(const DescriptionFormats& formats, std::string_view file_name,
                                                      const DescriptionFormat** format = nullptr);

// Marks the one that will be followed and says why, for all. `wanted` is the file named in coctilis.toml, or empty;
// `tree` is where the paths count from. Returns a Problem if `wanted` is not there or cannot be read.
[[nodiscard]] Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                              const DescriptionFormats& formats, const std::string& tree);

}  // namespace coctilis::survey
