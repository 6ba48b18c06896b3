// Java development kits of this machine, and the one that a tree is built with.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "base/answers.h"
#include "base/result.h"
#include "model/requirement.h"

namespace coctilis::locate {

struct JavaKit {
  std::string folder;    // absolute, links followed
  std::string version;   // "17.0.15", of the file "release" in it
  int release = 0;       // of the language: 17; 8 where the version is 1.8
  std::string compiler;  // absolute
  std::string runtime;   // absolute: what starts programs
  std::string origin;    // "JAVA_HOME", "the prefix /opt/x", "PATH", or the folder it was found in
};

// Those of JAVA_HOME, the prefixes, PATH, and the folders where systems keep them, in this order, each once. Ones
// without a compiler do not count.
[[nodiscard]] std::vector<JavaKit> java_kits(const std::vector<std::string>& prefixes);

// The least release of the language that a kit compiles for.
[[nodiscard]] int least_release_for(const JavaKit& kit);

// An archive of classes by the names that repositories of packages give it.
struct JavaArchive {
  std::string path;                 // absolute; empty: it was not found
  std::string version;              // as its name or folder has it; empty: it tells none
  std::vector<std::string> looked;  // where it was looked for
};
// Looks in `folders` (of the tree, and prefixes), in the local repository of the user (~/.m2/repository), and where the
// system keeps such archives: of the version, or else any.
[[nodiscard]] JavaArchive java_archive(const std::string& group, const std::string& name, const std::string& version,
                                       const std::vector<std::string>& folders);

// Packages of classes -> the archives (absolute) of those folders that have them, the one with the shortest name first;
// an archive that goes by several names counts once. Ones that cannot be read have none. `answers` (may be null) keeps
// what was found in a folder.
[[nodiscard]] std::map<std::string, std::vector<std::string>> java_packages_in(const std::vector<std::string>& folders,
                                                                               Answers* answers);
// The packages that an archive has classes of.
[[nodiscard]] std::set<std::string> java_packages_of(const std::string& archive);
// Whether a package comes with every kit.
[[nodiscard]] bool is_package_of_kits(const std::string& package);

// What a tree asks of a kit.
struct JavaWish {
  int at_least = 0;  // the release of the language that its sources are written in; 0: any
  int exactly = 0;   // the release that it names; 0: none
  Place place;
  std::string required_by;
};

// The kit for a wish: the release that is named; where that is not there the lowest above it that still compiles for
// it (a kit compiles for releases from 8 on, one below 20 for 7 as well); without one that is named the first that is
// new enough. What is found and what was passed over is told in `finding`; without any it is not found, with the
// reason.
struct JavaChoice {
  JavaKit kit;
  model::Finding finding;
  std::string note;  // that another release than the one named is taken; or empty
};
[[nodiscard]] JavaChoice choose_java(const std::vector<JavaKit>& kits, const JavaWish& wish);

}  // namespace coctilis::locate
