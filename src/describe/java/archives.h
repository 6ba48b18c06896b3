// Archives of classes from elsewhere: those that a description names, those that have what sources import, and those
// that tests are written with.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "describe/java/module.h"
#include "describe/java/source.h"
#include "describe/java/test_run.h"
#include "describe/read_request.h"

namespace coctilis::describe::java {

using SourcesByModule = std::map<std::string, std::vector<std::string>>;  // absolute

// Every function tells the locator what came of its search, adds what it found to the libraries of `whole`, and is
// false where something is not here; of tests that is nothing that is required.
class Archives {
 public:
  // All must outlive it. `units`: those made so far.
  Archives(const ReadRequest& request, const std::vector<Module>& modules, const SourcesByModule& sources,
           const std::vector<model::Unit>& units, SourcesRead& facts);

  bool take_package(const WantedPackage& wanted, const Module& module, model::Whole& whole);
  // A file, or a folder with such (absolute).
  bool take_archive(const std::string& path, const Module& module, model::Whole& whole);
  // Archives that are named and here; then what the sources import and nothing has is looked for, and only what of that
  // is not found is missing where archives are named that are not here.
  bool take_for_imports(const Module& module, const std::vector<std::string>& sources, model::Whole& whole);
  // What runs the tests, and what they are written with.
  bool take_frameworks(const TestFrameworks& frameworks, const Module& module, model::Whole& whole);

 private:
  using Nowhere = std::map<std::string, Place>;  // package -> the source that imports it
  Nowhere find_packages(const Module& module, const std::vector<std::string>& sources, model::Whole& whole);
  bool take_package_of_system(const std::string& package, const Module& module, const std::string& source,
                              model::Whole& whole);

  const ReadRequest& request_;
  const std::vector<Module>& modules_;
  const SourcesByModule& sources_;
  const std::vector<model::Unit>& units_;
  SourcesRead& facts_;
  std::vector<std::string> jar_folders_;
  std::set<std::string> own_packages_;  // of the tree's sources; filled when they are first asked for
  std::optional<std::map<std::string, std::vector<std::string>>> system_packages_;
};

}  // namespace coctilis::describe::java
