// Operations on the text of paths, as descriptions ask for them by name: nothing is looked up on disk.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace coctilis::paths {

// A part of a path: ROOT_NAME (always empty here), ROOT_DIRECTORY, ROOT_PATH, FILENAME, EXTENSION, STEM, RELATIVE_PART
// or PARENT_PATH. The extension begins at the first dot of the name that is not its first letter, or at the last one
// with `last_only`. Nothing for another word.
[[nodiscard]] std::optional<std::string> part_of(const std::string& path, const std::string& part, bool last_only);

// IS_ABSOLUTE, IS_RELATIVE or HAS_ with a part. Nothing for another word.
[[nodiscard]] std::optional<bool> is_so(const std::string& path, const std::string& question);

// Is `path` below `prefix`, or the same, by their names?
[[nodiscard]] bool is_prefix(const std::string& prefix, const std::string& path, bool normalize);
// Are they the same, but for doubled slashes?
[[nodiscard]] bool are_equal(const std::string& one, const std::string& other);

// The path changed by an operation: NORMAL_PATH, APPEND, APPEND_STRING, REMOVE_FILENAME, REPLACE_FILENAME,
// REMOVE_EXTENSION, REPLACE_EXTENSION, RELATIVE_PATH, ABSOLUTE_PATH (both from `base`) or CMAKE_PATH. Nothing for
// another word, or when a word it needs is not in `words`.
[[nodiscard]] std::optional<std::string> changed(const std::string& path, const std::string& operation,
                                                 const std::vector<std::string>& words, bool last_only,
                                                 const std::string& base);
[[nodiscard]] std::string normal(const std::string& path);

}  // namespace coctilis::paths
