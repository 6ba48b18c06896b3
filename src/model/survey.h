// What the survey learned about a tree.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

struct LanguageCount {
  std::string language;
  std::size_t files = 0;
  std::size_t code = 0;     // lines with something other than comment and blanks
  std::size_t comment = 0;  // lines with nothing but comment
  std::size_t blank = 0;
};

// The lines of sources below a folder at the top of the tree.
struct FolderCount {
  std::string folder;  // "." for those at the top itself
  std::size_t files = 0;
  std::size_t code = 0;
  std::size_t comment = 0;
  std::size_t blank = 0;
};

// A function in which a program starts.
struct EntryPoint {
  Place place;  // file relative to the tree
};

// A file that says how the tree is built.
struct Description {
  std::string path;       // relative to the tree
  std::string format;     // the name of the file format, such as "CMakeLists.txt"
  bool readable = false;  // a reader for the format exists
  bool followed = false;
  std::string reason;  // why it is or is not the one that is followed
};

enum class SubmoduleState { empty, pinned, elsewhere, unknown };
[[nodiscard]] constexpr const char* name_of(SubmoduleState state) {
  switch (state) {
    case SubmoduleState::empty: return "empty";
    case SubmoduleState::pinned: return "pinned";
    case SubmoduleState::elsewhere: return "elsewhere";
    case SubmoduleState::unknown: return "unknown";
  }
  return "";
}
// Another repository that belongs into the tree: a submodule, or a [[source]] of coctilis.toml.
struct Submodule {
  std::string path;    // relative to the tree
  std::string name;    // what its repository's settings call it; of a [[source]] its folder
  std::string within;  // the submodule that pins it, relative to the tree; empty: the tree itself
  std::string url;     // as written
  SubmoduleState state = SubmoduleState::unknown;
  std::string pinned;    // the revision the tree asks for; empty when unknown
  std::string actual;    // the revision that is there; empty when none
  bool changed = false;  // files of it differ from what its revision has
  Place place;           // of a [[source]]: where it is asked for; of a submodule empty
  [[nodiscard]] bool is_source() const { return !place.file.empty(); }
  [[nodiscard]] bool whole() const { return state == SubmoduleState::pinned; }
};

// What came of bringing in another repository.
enum class FillOutcome { filled, kept, refused, failed };
[[nodiscard]] constexpr const char* name_of(FillOutcome outcome) {
  switch (outcome) {
    case FillOutcome::filled: return "filled";
    case FillOutcome::kept: return "kept";
    case FillOutcome::refused: return "refused";
    case FillOutcome::failed: return "failed";
  }
  return "";
}
struct Filled {
  std::string path;  // relative to the tree
  FillOutcome outcome = FillOutcome::failed;
  std::string revision;
  std::string from;    // where it came from: a URL or a folder
  std::string reason;  // why not
  std::string remedy;
};

// Something in the tree that may break a build.
struct Hazard {
  std::string
      kind;  // "dangling link", "blank in path", "letters outside ASCII in path", "case clash", "unreadable", ...
  std::string path;  // relative to the tree
  std::string detail;
};

struct Survey {
  std::string tree;  // absolute
  std::size_t files = 0;
  std::size_t folders = 0;
  std::uint64_t bytes = 0;
  std::vector<LanguageCount> languages;      // most code first
  std::vector<FolderCount> lines_by_folder;  // most code first
  std::vector<EntryPoint> entry_points;
  std::size_t members = 0;  // descriptions that are brought up one after the other; 0: only one is followed
  std::vector<Description> descriptions;  // the followed one first
  // Folders, relative to the tree, each with a description of its own, when nothing above them says how the tree is
  // built and there are several; by name.
  std::vector<std::string> parts;
  std::vector<Submodule> submodules;
  std::vector<Hazard> hazards;
  std::string revision;  // of the git repository that holds the tree; empty without one
  double seconds = 0;

  // The description that is followed, or nullptr.
  [[nodiscard]] const Description* followed() const {
    for (const auto& description : descriptions) {
      if (description.followed) return &description;
    }
    return nullptr;
  }
};

}  // namespace coctilis::model
