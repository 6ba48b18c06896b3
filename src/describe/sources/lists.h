// What lists of sources say that lie beside them, where the description that they are a part of cannot be followed:
// which sources make up which program or library, and with which definitions they are compiled (Makefile.am,
// configure.ac).
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/sources/tree.h"

namespace coctilis::describe::sources {

struct ListedResult {
  bool library = false;
  bool installed = false;            // else it is for the tree itself
  bool test = false;                 // it is made for tests alone
  std::string name;                  // as after -l, of a library
  std::vector<std::string> sources;  // relative to the tree
  Place place;
};

struct SourceLists {
  std::vector<ListedResult> results;  // by path of the list, then as they stand in it
  // By source, relative: NAME or NAME=VALUE, and folders (absolute) for headers. Of a source that several list: of the
  // first that is no test.
  std::map<std::string, std::vector<std::string>> definitions;
  std::map<std::string, std::vector<std::string>> folders;
  // Names that the file by which the tree is configured defines, with values that say more than that they are there.
  std::map<std::string, std::string> values;
};

// `tree_name`: what the tree is called where it does not say itself. Conditions count as fulfilled; a definition with a
// variable that nobody here knows does not count.
[[nodiscard]] SourceLists source_lists(const Tree& tree, const std::string& tree_name);

}  // namespace coctilis::describe::sources
