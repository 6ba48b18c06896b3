// What a folder of a tree is for, by its name: the names that trees use for tests, examples, copies of others' code and
// the like are the same everywhere.
#pragma once

#include <string>
#include <string_view>

namespace coctilis::survey {

enum class FolderRole {
  own,          // the tree's own work, as far as its name tells
  tests,        //
  examples,     //
  documents,    //
  third_party,  // copies of what others have written
  packaging,    // how distributions pack it
  elsewhere,    // for systems of another kind than the one this program runs on
  extras        // contributed, obsolete or unfinished parts
};
// "a folder of tests", "a folder for other systems", ...
[[nodiscard]] const char* name_of(FolderRole role);

// Of a folder by its name alone ("tests"); letter case does not count.
[[nodiscard]] FolderRole role_of_folder(std::string_view name);
// Of a file or folder in a tree: what the first folder on its path (relative to the tree) that is not `own` is for.
// `which`, when not null, gets that folder's path.
[[nodiscard]] FolderRole role_of_path(std::string_view path, std::string* which = nullptr);

}  // namespace coctilis::survey
