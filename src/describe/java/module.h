// Java as descriptions tell of it: modules with folders of sources and resources, and what they need. Each kind of
// description is read into these; units are made of them in one place.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "describe/read_request.h"
#include "model/project.h"

namespace coctilis::describe::java {

// An archive that a description asks repositories of packages for.
struct WantedPackage {
  std::string group;  // may be empty
  std::string name;
  std::string version;  // may be empty
  bool optional = false;
  // Nobody misses it where all that the sources import is found without it.
  bool only_for_imports = false;
  Place place;
};

struct ResourceFolder {
  std::string folder;                 // absolute
  std::string below;                  // where it lies in the archive; empty: at its top
  std::vector<std::string> includes;  // patterns with ** and *; none: all
  std::vector<std::string> excludes;
  bool is_filtered = false;  // ${NAME} in its files is replaced
  bool is_flat = false;      // what lies in folders of it does not count
};

// A file that goes into an archive.
struct ArchiveFile {
  std::string from;                           // absolute
  std::string name;                           // in the archive
  std::map<std::string, std::string> values;  // @NAME@ in it becomes these
};

struct Module {
  std::string name;
  std::string folder;                     // absolute
  std::vector<std::string> sources;       // absolute; none: all below `source_roots`
  std::vector<std::string> source_roots;  // absolute
  std::vector<ResourceFolder> resources;
  std::vector<std::string> source_includes;  // patterns; none: all
  std::vector<std::string> source_excludes;
  std::vector<std::string> uses;      // other modules, by name
  std::vector<std::string> archives;  // absolute: files that lie in the tree, or are named by path
  std::vector<WantedPackage> packages;
  bool finds_packages = false;  // what its sources import is looked for where nothing says who has it
  int level = 0;                // release of the language that it is written in; 0: that of the compiler
  bool level_is_api = false;    // it may use what that release has, and nothing newer
  std::string entry;            // the class with main that starts it, where that is said
  std::string encoding = "UTF-8";
  std::vector<std::string> options;           // for the compiler
  std::map<std::string, std::string> values;  // for filtered resources
  std::vector<ArchiveFile> files;
  // Sources in which @NAME@ becomes something: what, by the source.
  std::map<std::string, std::map<std::string, std::string>> source_values;
  std::vector<std::pair<std::string, std::string>> manifest;  // attributes of its archive
  // Which classes its archive has: of another module, by name (empty: its own), as paths by patterns (none: all).
  std::string classes_of;
  std::vector<std::string> class_includes, class_excludes;
  // The module whose tests these are, by name; empty: they are none. What tests lack leaves them out.
  std::string tests_of;
  // Of tests: the sources whose classes are run, as patterns below their root; none: all.
  std::vector<std::string> run_includes;
  std::vector<std::string> run_excludes;
  Place place;
};

// How the tests of a module are called: as no module is, which may well be called "clay-tests".
[[nodiscard]] std::string tests_name(const std::string& module);

struct Modules {
  std::vector<Module> modules;  // in any order
  int kit = 0;                  // the release of the kit that the description names; 0: none
  Place kit_place;
  std::string name;  // of the project; may be empty
  std::string version;
  std::vector<std::string> read_files;  // absolute
  std::vector<model::LeftOut> left_out;
};

// What is compiled: every class that can be started becomes a program. Asks the locator for a kit and for all that is
// not in the tree; what is missing is a finding. Throws Fault (Exit::description): a circle of modules, or
// none that has sources.
[[nodiscard]] model::Project project_of(Modules modules, const ReadRequest& request);

// ---- the descriptions -----------------------------------------------------------------------------------------------
// A pom.xml with its parents and modules. Throws Fault (Exit::description).
[[nodiscard]] Modules read_pom(const std::string& file, const std::string& tree);
// A build.xml: what its targets would compile, pack and copy. Throws Fault (Exit::description).
[[nodiscard]] Modules read_build_xml(const std::string& file, const std::string& tree);
// The module files of editors (*.iml with the folder .idea beside it) of the tree; without any, modules by the folders
// of the sources. Throws Fault (Exit::description).
[[nodiscard]] Modules read_editor_modules(const std::string& tree, const std::vector<std::string>& files);
[[nodiscard]] Modules modules_of_sources(const std::string& tree);

}  // namespace coctilis::describe::java
