// build.xml: what its targets would do, found out by going through them without doing anything.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "describe/java/file_choice.h"
#include "model/build.h"

namespace coctilis::describe::java {

// Sources that are compiled together into a folder.
struct Compilation {
  std::string to;  // absolute
  std::vector<FileChoice> sources;
  std::vector<std::string> class_path;  // absolute
  std::string level;                    // as it is written
  bool level_is_api = false;
  std::string encoding;
  std::vector<std::string> options;
  std::size_t order = 0;  // among all that is compiled and packed: what comes later is not there yet
  Place place;
};

// Files that are copied, or packed.
struct Moved {
  FileChoice from;
  std::string to;    // a folder: absolute when copied, in the archive when packed
  std::string name;  // of the one file, where it gets another; else empty
  bool flat = false;
  std::map<std::string, std::string> values;  // @NAME@ in the files becomes these
};

// An archive of classes that is made.
struct MadeArchive {
  std::string file;  // absolute
  std::vector<Moved> content;
  std::vector<std::pair<std::string, std::string>> manifest;
  std::size_t order = 0;
  Place place;
};

struct BuildFile {
  std::string name;  // of the project; may be empty
  std::vector<Compilation> compilations;
  std::vector<MadeArchive> archives;
  std::vector<Moved> copies;
  // Of targets that run tests: what is compiled for them, and the sources whose classes are run.
  std::vector<Compilation> tests;
  std::vector<FileChoice> run;
  std::vector<std::string> read_files;  // absolute
  std::vector<model::LeftOut> left_out;
};

// Goes through the target that the project names, or else the one that makes most of it, with all that it depends on.
// Places count from `tree`. What is asked for and not followed is left out with its place; what would be asked of the
// system or the clock is taken from it. Throws Fault (Exit::description): no XML, no project, a target that is not
// there, a circle of targets, files that lie outside of the tree.
[[nodiscard]] BuildFile read_build_file(const std::string& file, const std::string& tree);

}  // namespace coctilis::describe::java
