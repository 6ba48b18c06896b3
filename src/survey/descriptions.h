// Files that say how a tree is built: which there are, and the choice among them. What formats there are, the readers
// tell (describe/readers.h); here are those that nobody reads yet.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "model/survey.h"
#include "survey/names.h"

namespace coctilis::survey {

// A name that files of a format have.
struct DescriptionName {
  std::string_view pattern;  // the name of the file, or * and how it ends
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
  // Whether a file that has one of the names is a description at all; may be null: it is. `path` is absolute.
  bool (*counts)(const std::string& path) = nullptr;
  // It needs no file: the sources of a tree are description enough. It comes behind all others.
  bool by_sources = false;
  // It only says that the tree lacks what it could be built by.
  bool is_hint = false;
  // Of several in one folder that have names of the same rank the one with the lowest number is followed; may be null:
  // the first by name. `path` is absolute.
  int (*among)(const std::string& path) = nullptr;
  // What a file of the format asks others for and gives, by name; may be null: its text is read as commands. `path` is
  // absolute. What cannot be read says nothing.
  void (*names_in)(const std::string& path, Names& names) = nullptr;
  // Files with such names are as often helpers of some other description.
  bool is_often_helper = false;
};
using DescriptionFormats = std::vector<DescriptionFormat>;

// Formats that are known by name only.
[[nodiscard]] const DescriptionFormats& unread_formats();

// The name of a format that a file has, by its name without folders; nullptr for none. `format`, when not null, gets
// the format.
[[nodiscard]] const DescriptionName* description_name(const DescriptionFormats& formats, std::string_view file_name,
                                                      const DescriptionFormat** format = nullptr);

// Marks the one that will be followed and says why, for all. `wanted` is the file named in coctilis.toml, or empty;
// `tree` is where the paths count from. Returns a Problem if `wanted` is not there or cannot be read.
[[nodiscard]] Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                              const DescriptionFormats& formats, const std::string& tree);

// For a tree whose top folder has no description that can be followed: the folders further down that have one of their
// own, relative to the tree, by name. Folders below such a one are its own business, and those of
// tests, examples, others' code and the like do not count; each that does not is put into `found` with the reason.
// `below`: the descriptions in folders further down.
[[nodiscard]] std::vector<std::string> folders_with_descriptions(std::vector<model::Description>& found,
                                                                 const std::vector<model::Description>& below,
                                                                 const DescriptionFormats& formats,
                                                                 const std::string& tree);
// Puts the descriptions that a folder further down has into `found`, the best of them followed.
void follow_in_folder(std::vector<model::Description>& found, const std::vector<model::Description>& below,
                      const std::string& folder, const DescriptionFormats& formats, const std::string& tree);

}  // namespace coctilis::survey
