// The packages of a tree in Go, those that they import, and where these lie.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/go/module.h"
#include "describe/go/test_source.h"
#include "describe/read_request.h"
#include "locate/go.h"
#include "model/project.h"

namespace coctilis::describe::go {

// A module whose packages are looked for.
struct Module {
  std::string path;
  std::string folder;  // absolute
  ModuleFile file;
  bool own = false;       // of the tree: all of its packages are built
  bool vendored = false;  // what it imports lies in its folder "vendor"
};

struct Package {
  std::string path;                // by which others import it
  std::string name;                // of its package clause
  std::string folder;              // absolute
  const Module* module = nullptr;  // while packages are looked for
  int minor = 0;                   // release 1.N of the language that its module is written in; 0: not said
  std::vector<std::string> sources, assembler, headers;  // absolute
  std::vector<std::string> calling_c;                    // sources that import "C"
  std::vector<std::string> c_sources;                    // in C and C++, where there are such
  std::vector<std::string> c_options, c_link_words;
  std::map<std::string, std::string> imports;  // as written -> path of a package, or an archive of the standard library
  std::vector<model::GoPackage::Embed> embeds;
  bool own = false;
  bool lacks = false;  // what its C asks of the system is not there
  Place place;
};

// The tests of a package: what they are compiled to, and what is called.
struct PackageTests {
  struct Function {
    TestFunction said;
    bool outside = false;  // it is of the package beside
  };
  std::string path;  // of the package
  // The package with the tests that are of it, which stands in its place; the tests that are a package beside it. No
  // sources: there is none.
  Package inside, outside;
  bool anew = false;           // `inside` has more than the package
  std::vector<Package> again;  // that the tests import and that import the package: compiled again with `inside`
  std::vector<Function> functions;
  std::map<std::string, std::string> imports;  // of the program that runs them, of the standard library
};

struct Packages {
  std::vector<Package> all;  // each behind those that it imports
  std::vector<PackageTests> tests;
  std::vector<model::LeftOut> left_out;
  std::vector<std::string> read_files;
};

// All packages of the modules that are the tree's own with what they import, of those folders that have sources for
// this machine and these tags. What is nowhere is a finding of the locator. Throws Fault (Exit::description): packages
// that import each other in a circle, two packages in one folder, a pattern to embed that takes nothing, a package that
// others may not import, an import whose sources are all for other machines.
// `calls_c`: sources that call C count; what they ask of the system is a finding as well. `tests`: the tests of the
// tree's own packages are looked for; what only they lack leaves them out, and is a finding that nothing hangs on.
[[nodiscard]] Packages find_packages(const std::vector<Module>& modules, const locate::GoKit& kit,
                                     const std::vector<std::string>& tags, bool calls_c, bool tests,
                                     const ReadRequest& request);

}  // namespace coctilis::describe::go
