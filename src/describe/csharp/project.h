// *.csproj, in the short form with files by default and in the older one, with the Directory.Build.props above it.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/build.h"

namespace coctilis::describe::csharp {

struct Reference {
  std::string name;  // of an assembly, or of a package
  std::string path;  // absolute; empty: it is not said where it lies
  std::string version;
  bool is_package = false;
  Place place;
};

struct Resource {
  std::string path;  // absolute
  std::string name;  // in the assembly
};

struct Content {
  std::string path;  // absolute
  std::string to;    // beside the program
};

struct CsharpProject {
  std::string file;    // absolute
  std::string folder;  // absolute
  std::string name;    // of the assembly
  bool is_program = false;
  bool is_test = false;
  std::vector<std::string> frameworks;  // "net8.0", "v4.7.2"
  std::vector<std::string> sources;     // absolute
  std::vector<std::string> defines;
  std::vector<std::string> options;  // words for the compiler
  std::string language;              // "7.3", "latest"; empty: the compiler's own
  std::vector<std::string> uses;     // other projects: absolute paths of their files
  std::vector<Reference> references;
  std::vector<Resource> resources;
  std::vector<Content> contents;
  std::vector<std::string> absent;  // absolute: contents that are not there
  std::vector<std::string> usings;  // that all of its sources have unasked: "System", "static System.Math", "A = X.B"
  std::vector<std::string> read_files;
  std::vector<model::LeftOut> left_out;
};

// Reads a project. `debug`: which of two configurations is meant; `tree`: that nothing is taken from outside of. Throws
// Fault (Exit::description) with its place: no XML, a condition that cannot be read, a file that leads out of the tree.
[[nodiscard]] CsharpProject read_project(const std::string& file, const std::string& tree, bool debug);

// The C# projects that a solution file names, absolute, in order; those that are not there as well.
[[nodiscard]] std::vector<std::string> projects_of_solution(const std::string& file);

// A condition of such files: comparisons of texts with == and !=, Exists('...'), and, or, ! and brackets; variables are
// replaced before. One that cannot be read does not hold, and `problem` says why.
[[nodiscard]] bool condition_holds(const std::string& condition, const std::string& folder, std::string& problem);

}  // namespace coctilis::describe::csharp
