// A language that coctilis.toml tells of: [language.NAME].
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

// Words of commands may have places in them, which survey/language_settings.h lists.
struct ToldLanguage {
  enum class Makes {
    object,   // of each source, to be linked
    program,  // of the source that a program begins in, with all that this takes in
    folder    // of all sources together, for a runtime
  };
  std::string name;
  std::vector<std::string> endings;            // of sources, with the dot
  std::vector<std::string> included;           // of files that sources take in, with the dot
  std::vector<std::string> compiler;           // programs by name; the first that is there
  std::string version;                         // that it has to have: ">= 12"
  std::vector<std::string> version_words;      // that make it tell its version; none: --version
  std::string package;                         // the Debian package that has it; empty: the table of programs may know
  std::vector<std::string> command;            // words behind the compiler
  std::vector<std::vector<std::string>> link;  // commands that make a program of objects; none: the C compiler does
  std::vector<std::string> start;              // what starts a program that is none by itself; none: it is one
  Makes makes = Makes::object;
  std::vector<std::string> also;     // endings of what is made beside each object
  std::vector<std::string> include;  // folders; paths count from the tree
  std::vector<std::string> options;
  std::vector<std::string> debug, release;   // options of variants that are based on the one or the other
  std::string options_file;                  // of the tree; empty: none
  std::vector<std::string> libraries;        // files that it needs, looked for in
  std::vector<std::string> library_folders;  // these, which count from the tree or are absolute
  std::string reads;                         // the file that tells what it read, in make's form; empty: it is watched
  std::string entry;                         // a pattern of the line that a program begins with; empty: none is told
  Place place;
};

}  // namespace coctilis::model
