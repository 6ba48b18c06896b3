// What a reader hands on: targets, rules, wants, options and tests, with the place of every word that matters.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/environment.h"
#include "model/want.h"

namespace coctilis::model {

// A word of the description. It may hold expressions $<...> that only the plan can work out.
struct Value {
  std::string text;
  Place place;
  // The folder that relative paths and names count from; empty: that of the target.
  std::string folder;
};
using Values = std::vector<Value>;

// What a target needs to be compiled and linked, or what it hands on to those that use it.
struct Requirements {
  Values include_folders;
  Values system_include_folders;
  Values definitions;
  Values compile_options;
  Values compile_features;
  Values link_items;
  Values link_options;
  Values link_folders;
  Values sources;
};

enum class TargetKind {
  program,
  static_library,
  shared_library,
  module_library,
  object_set,
  interface_library,
  custom
};
[[nodiscard]] constexpr const char* name_of(TargetKind kind) {
  switch (kind) {
    case TargetKind::program: return "program";
    case TargetKind::static_library: return "static library";
    case TargetKind::shared_library: return "shared library";
    case TargetKind::module_library: return "module";
    case TargetKind::object_set: return "object set";
    case TargetKind::interface_library: return "interface library";
    case TargetKind::custom: return "command target";
  }
  return "";
}

// A command line of the description, word by word.
struct RuleCommand {
  Values words;
};

// Commands that make files, or that run before or after a target is linked.
struct Rule {
  Values outputs;     // absolute
  Values byproducts;  // absolute
  Values depends;     // files or targets
  std::vector<RuleCommand> commands;
  std::string folder;         // where the commands run
  std::string source_folder;  // where relative inputs count from
  std::string binary_folder;  // where relative inputs count from next
  std::string comment;
  std::string depfile;  // a file the commands write, naming further inputs (make rule syntax)
  bool expand_lists = false;
  bool verbatim = false;  // the words reach the programs as they are; else a shell has its say
  Place place;
};

struct Target {
  std::string name;
  TargetKind kind = TargetKind::program;
  bool imported = false;  // exists outside the tree
  std::string alias_of;   // another name for that target
  Place place;
  std::string folder;         // source folder of the description that declares it
  std::string binary_folder;  // its folder for results
  bool in_default = true;     // made when nothing is named
  Values sources;
  Requirements own;
  Requirements handed_on;
  std::vector<Value> dependencies;           // targets to be made before
  std::map<std::string, Values> properties;  // everything else the description says of it, by the description's names
  std::vector<Rule> before_compile;
  std::vector<Rule> before_link;
  std::vector<Rule> after_link;
  std::vector<Rule> commands;  // of a custom target
  // Options of all compilations of a language that the description's variables give, in place at the end of its folder.
  std::map<std::string, std::string> language_options;
  std::map<std::string, std::string> link_variables;  // by target kind

  [[nodiscard]] const Values* property(const std::string& key) const {
    const auto it = properties.find(key);
    return it == properties.end() ? nullptr : &it->second;
  }
};

struct Test {
  std::string name;
  Values command;
  std::string folder;
  std::map<std::string, Values> properties;
  Place place;
};

// An option that the description declares.
struct Option {
  std::string name;
  std::string type;  // "switch", "text", "folder", "file"
  std::string value;
  std::string initial;  // what the description sets when nobody says otherwise
  std::string help;
  Place place;
};

// A file whose content is only known once expressions can be worked out.
struct GeneratedFile {
  Value path;
  Value content;
  Value condition;
  std::string target;  // whose properties expressions mean
  bool executable = false;
};

// A rule for installing, word by word, in order of the description.
struct InstallRule {
  std::string folder;
  std::string binary_folder;
  Values words;
  std::map<std::string, std::string> folders;  // where kinds of things go when nothing is said: "RUNTIME" -> "bin"
};

// Something of the description that is not followed on purpose.
struct LeftOut {
  std::string kind;  // "documentation"
  std::string name;
  Place place;
};

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
  std::vector<std::string> order_only;
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

struct SourceProperties {
  std::string folder;  // of the description that set them
  std::map<std::string, Values> properties;
};

struct Project {
  std::string name;
  std::string version;
  std::string description;  // the file, relative to the tree
  std::string format;
  bool complete = true;                // it tells all that is made: what it told of before is no result any more
  std::string tree;                    // absolute
  std::string binary_root;             // absolute: the folder that mirrors the tree
  std::string install_prefix;          // absolute: what absolute places to install to are taken to lie below
  std::string configuration;           // the name that $<CONFIG> gives
  std::vector<std::string> languages;  // "C", "C++"
  // Compilers of further languages, by language: the command with its first options.
  std::map<std::string, std::vector<std::string>> other_compilers;
  // Files that the description writes into the source tree, and where they are instead; both absolute. Below
  // binary_root/.tree lies what stands before the tree.
  std::map<std::string, std::string> overlaid;
  std::vector<Target> targets;
  std::map<std::string, std::size_t> target_index;  // by name
  std::vector<Rule> rules;
  bool by_recipes = false;     // the description is made of recipes; then there are no targets and rules
  std::string install_folder;  // where its own target "install" is made; empty: there is none
  std::vector<Recipe> recipes;
  std::shared_ptr<LateRecipes> late;
  std::map<std::string, SourceProperties> sources;  // by absolute path
  std::vector<Test> tests;
  std::vector<Option> options;
  std::vector<GeneratedFile> generated_files;
  std::vector<InstallRule> install_rules;
  std::vector<Finding> findings;
  std::vector<LeftOut> left_out;
  std::vector<std::string> messages;    // what the description says to its user
  std::vector<Problem> warnings;        // what it warns of, and what we noticed
  std::vector<std::string> read_files;  // every file that had a say, absolute

  // The target of that name, through aliases; nullptr if there is none.
  [[nodiscard]] const Target* target(const std::string& wanted) const {
    auto it = target_index.find(wanted);
    for (int guard = 0; it != target_index.end() && !targets[it->second].alias_of.empty() && guard < 32; ++guard) {
      it = target_index.find(targets[it->second].alias_of);
    }
    return it == target_index.end() ? nullptr : &targets[it->second];
  }
};

}  // namespace coctilis::model
