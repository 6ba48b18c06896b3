// Which objects of a tree without a description belong together: programs, libraries, tests, and what belongs to none.
// Worked out from what each object defines and wants, from where its source lies, and from what the tree says of
// itself; nothing is looked up on disk.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "base/elf.h"
#include "survey/folders.h"

namespace coctilis::describe::sources {

struct Object {
  std::string path;  // of its source, relative to the tree
  std::string language;
  survey::FolderRole role = survey::FolderRole::own;
  std::vector<ElfSymbol> symbols;
  std::string program;       // what the program is called whose entry point it has, where the tree says so
  std::string program_told;  // who says so
};

// A library that the tree itself speaks of.
struct LibraryHint {
  std::string name;                       // as after -l
  std::string folder;                     // where its sources lie, as far as that is known: relative; empty: anywhere
  std::string why;                        // "clay.pc.in says -lclay"
  std::vector<std::string> sources = {};  // relative: what it is made of, where that is said too; headers among them
};

struct Group {
  enum class Kind {
    program,
    library,  // that the tree is there for
    archive   // of what several programs share
  };
  Kind kind = Kind::program;
  std::string name;
  std::vector<std::size_t> objects;    // the one with the entry point first; one may be in several groups
  std::vector<std::size_t> libraries;  // groups that are libraries or archives, which it uses
  std::set<std::string> wanted;        // symbols that it leaves to libraries of the system
  bool by_default = true;              // else it is a test, an example or the like
  std::string why;                     // what made it one, in words
};

struct Belongs {
  std::size_t object = 0;
  std::string why;
};

struct Grouping {
  std::vector<Group> groups;
  std::vector<Belongs> left_out;   // objects that belong to nothing
  std::vector<std::string> notes;  // choices among several definitions of a symbol
};

// `tree_name`: of the tree, without a version. `given_elsewhere`: symbols that the C library and the compilers have.
[[nodiscard]] Grouping group(const std::vector<Object>& objects, const std::string& tree_name,
                             const std::vector<LibraryHint>& hints, const std::set<std::string>& given_elsewhere);

// True for names that sources of tests have: "clay_test", "test-clay", "tests".
[[nodiscard]] bool is_name_of_test(const std::string& stem);
// "clay-1.2.3" is "clay".
[[nodiscard]] std::string name_without_version(const std::string& name);

}  // namespace coctilis::describe::sources
