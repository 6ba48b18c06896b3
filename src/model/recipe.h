// Recipes of makefiles with everything worked out.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/environment.h"

namespace coctilis::model {

// A line of a recipe, ready to be given to a shell.
struct RecipeLine {
  std::string command;
  bool silent = false;         // its text is not shown
  bool ignore_errors = false;  // its failing does not matter
  bool always = false;         // it starts the make program again, or asks to be run whatever happens
};

// A rule of a makefile with everything worked out: what makes some files, or stands for a name.
struct Recipe {
  std::string name;                  // as the makefile says
  std::vector<std::string> outputs;  // absolute; names that are no files as well
  bool phony = false;                // its outputs are names, not files
  bool always = false;               // it needs a name that is no file, so it is never up to date
  std::vector<std::string> inputs;   // absolute
  std::vector<std::string> after;
  std::vector<RecipeLine> lines;
  bool late = false;               // the lines depend on what is there when they run: they are worked out then
  std::size_t key = 0;             // by which the reader knows it, for late lines
  std::string folder;              // where the lines run
  std::vector<std::string> shell;  // the shell with its options
  bool one_shell = false;          // all lines go to one shell
  Environment environment;
  std::string notes;       // absolute: where its command notes what it was seen to ask for; empty: it does not
  bool in_default = true;  // needed by what is made when nothing is named
  Place place;
};

// Works out the lines of recipes that have to wait until they run: only the reader can.
class LateRecipes {
 public:
  virtual ~LateRecipes() = default;
  // May throw Fault.
  virtual std::vector<RecipeLine> lines(const Recipe& recipe) = 0;
};

}  // namespace coctilis::model
