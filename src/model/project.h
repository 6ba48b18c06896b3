// What a reader hands on: what a description is about, its options, its requirements with their findings, and the facts
// that the plan makes steps of.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/build.h"
#include "model/recipe.h"
#include "model/requirement.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::model {

// An option that the description declares.
struct Option {
  std::string name;
  std::string type;  // "switch", "text", "folder", "file"
  std::string value;
  std::string initial;  // what the description sets when nobody says otherwise
  std::string help;
  Place place;
};

// What is known of a unit or a test before it is worked out for a tool chain.
struct Outline {
  enum class Kind { built, commands, test };
  Kind kind = Kind::built;
  std::string name;
  bool in_default = true;
  std::string folder;                        // absolute: of the description that declares it
  std::vector<std::string> sources;          // absolute, as far as they are plain names; of a test: its words
  std::vector<std::string> include_folders;  // absolute, as far as they are plain names
  std::map<std::string, int> standards;      // by language: the short year of the oldest standard that will do
};

// Works out the facts of a description. Their words may mean one thing for one compiler and another for the next, so
// this comes behind reading, and once for every tool chain that is used.
class Facts {
 public:
  virtual ~Facts() = default;
  // Throws Fault (Exit::description) with the place of what cannot be worked out.
  [[nodiscard]] virtual Build build_with(const Toolchain& toolchain) const = 0;
};

struct Project {
  std::string name;
  std::string version;
  std::string description;  // the file, relative to the tree
  std::string format;
  bool complete = true;                // it tells all that is made: what it told of before is no result any more
  std::string tree;                    // absolute
  std::string binary_root;             // absolute: the folder that mirrors the tree
  std::vector<std::string> languages;  // "C", "C++"
  std::vector<Outline> outlines;
  std::shared_ptr<const Facts> facts;        // nothing when the description is made of recipes
  bool by_recipes = false;                   // the description is made of recipes
  std::vector<SourceTarget> source_targets;  // what a tree without a description was found to come to
  std::string install_folder;                // where its own target "install" is made; empty: there is none
  std::string install_makefile;  // from there: the one that has it; empty: the one that is found by its name
  std::vector<Recipe> recipes;
  std::shared_ptr<LateRecipes> late;
  std::vector<TestCase> recipe_tests;  // tests of other descriptions are among the facts
  std::vector<Option> options;
  std::vector<Finding> findings;
  std::vector<LeftOut> left_out;
  std::vector<std::string> messages;    // what the description says to its user
  std::vector<Problem> warnings;        // what it warns of, and what we noticed
  std::vector<std::string> read_files;  // every file that had a say, absolute

  // Without what only planning needs: a plan is kept beside it.
  template <class Archive>
  void serialize(Archive& archive) {
    archive(name, version, description, format, complete, tree, binary_root, languages, outlines, by_recipes,
            source_targets, install_folder, install_makefile, options, findings, left_out, messages, warnings,
            read_files);
  }
};

// Where the objects of the sources of one unit lie, absolute, in order: below the unit's own folder among the objects,
// by the sources' places and under their names with the ending ".o". Where two would be the same, the later one keeps
// its own ending as well. `folder` and `work_folder` are those of the unit.
[[nodiscard]] std::vector<std::string> object_paths(const Project& project, const std::string& unit,
                                                    const std::string& folder, const std::string& work_folder,
                                                    const std::vector<std::string>& sources);

}  // namespace coctilis::model
