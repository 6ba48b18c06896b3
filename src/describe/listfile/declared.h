// What a CMakeLists.txt declares, in its own words: targets with their properties, rules, tests, what is installed.
// Only lower/ makes facts of it.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/build.h"
#include "model/project.h"

namespace coctilis::describe::listfile {

using model::TargetKind;

// Languages that have another name in this description than elsewhere.
inline constexpr const char* assembler = "Assembler";              // with the preprocessor of C: "ASM"
inline constexpr const char* plain_assembler = "Plain assembler";  // "ASM_NASM"
// The language that variables and properties know as "CXX" is "C++", and so on; empty: it is none that is known.
[[nodiscard]] std::string language_named(const std::string& key);
// The other way round.
[[nodiscard]] std::string key_of_language(const std::string& language);

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
  Values first_headers;  // included before every source: absolute, or a name to be looked for
  Values compile_features;
  Values link_items;
  Values link_options;
  Values link_folders;
  Values sources;
};

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
  std::string dependency_file;  // a file the commands write, naming further inputs (make rule syntax)
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
  // What stands before and behind the name of its file as long as no property says otherwise; the same.
  std::string usual_prefix;
  std::string usual_suffix;
  bool visibility_for_all = false;         // not only shared libraries hide their symbols
  bool exports_always = false;             // a program offers its symbols to what it loads, unasked
  bool no_link_time_optimisation = false;  // whatever its properties say

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
  bool for_build_folder = false;               // of export(): nothing is installed
  std::map<std::string, std::string> folders;  // where kinds of things go when nothing is said: "RUNTIME" -> "bin"
};

struct SourceProperties {
  std::string folder;  // of the description that set them
  std::map<std::string, Values> properties;
};

// A project as it is declared.
struct Declared : model::Project {
  std::string install_prefix;  // absolute: what absolute places to install to are taken to lie below
  std::string configuration;   // the name that $<CONFIG> gives
  // Compilers of further languages, by language: the command with its first options.
  std::map<std::string, std::vector<std::string>> other_compilers;
  // Files that the description writes into the source tree, and where they are instead; both absolute. Below
  // binary_root/.tree lies what stands before the tree.
  std::map<std::string, std::string> overlaid;
  std::vector<Target> targets;
  std::map<std::string, std::size_t> target_index;  // by name
  std::vector<Rule> rules;
  std::map<std::string, SourceProperties> sources;  // by absolute path
  std::vector<Test> tests;
  std::vector<GeneratedFile> generated_files;
  std::vector<InstallRule> install_rules;

  // The target of that name, through aliases; nullptr if there is none.
  [[nodiscard]] const Target* target(const std::string& wanted) const {
    auto it = target_index.find(wanted);
    for (int guard = 0; it != target_index.end() && !targets[it->second].alias_of.empty() && guard < 32; ++guard) {
      it = target_index.find(targets[it->second].alias_of);
    }
    return it == target_index.end() ? nullptr : &targets[it->second];
  }
};

}  // namespace coctilis::describe::listfile
