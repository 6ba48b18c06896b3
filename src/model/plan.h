// The plan: every step with its command, inputs and outputs, and the targets they make.
#pragma once

#include <algorithm>
#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "model/build.h"

namespace coctilis::model {

enum class StepKind { compile, archive, link, name, generate, custom, scan, finish };
[[nodiscard]] constexpr const char* name_of(StepKind kind) {
  switch (kind) {
    case StepKind::compile: return "compile";
    case StepKind::archive: return "archive";
    case StepKind::link: return "link";
    case StepKind::name: return "name";
    case StepKind::generate: return "generate";
    case StepKind::custom: return "run";
    case StepKind::scan: return "scan";
    case StepKind::finish: return "finish";
  }
  return "";
}

// A compiler run that is part of a step whose commands are the description's own.
struct Compilation {
  std::string source;  // absolute
  std::string output;  // absolute
  std::string folder;
  std::vector<std::string> argv;
};

// Where a compiler looks for a name: first beside the file that asks, if it asks in quotes.
struct SearchPath {
  std::vector<std::string> quoted;   // then here, for names in quotes only
  std::vector<std::string> folders;  // then here, in order: the description's, then the compiler's own
  std::size_t own = 0;               // how many of these are the description's
  bool operator==(const SearchPath&) const = default;
};

// How it is found out what a step reads besides what it is said to.
enum class Reads {
  told,     // its command writes it down (Step::dependency_file); without one, nothing else is read
  kept,     // the same, into a file that its recipe moves or takes apart afterwards: it is read before that
  asked,    // the compiler is asked besides, by what it finds in the environment
  opened,   // it is watched: files that it opens
  watched,  // it is watched: also what it asks about
  noted,    // it watches what it starts itself, and notes all of that (Step::dependency_file, in the form of
            // WatchedFiles); what it turns out to have written counts among its outputs
};

struct Step {
  StepKind kind = StepKind::compile;
  std::string target;   // the target it belongs to; empty for a rule that several use
  std::string subject;  // what a person calls it: a source or a result, relative
  std::string language;
  std::string source;  // of a compilation, absolute
  std::vector<Action> actions;
  std::vector<std::string> inputs;      // files whose content matters, absolute
  std::vector<std::string> after;       // files that must exist before
  std::vector<std::string> outputs;     // absolute; the first names the step
  std::vector<std::string> byproducts;  // may or may not be written
  // Folders of which all that lies in them matters, and such that this step alone fills, with whatever names: those are
  // emptied before it runs. Absolute; the latter lie below Plan::work. A unit that is compiled whole is such a step.
  std::vector<std::string> input_folders;
  std::vector<std::string> output_folders;
  std::string dependency_file;  // absolute; inputs found while running (make rule syntax)
  std::string time_report;      // absolute: what its compiler writes of how long each header took; empty: nothing
  Reads reads = Reads::told;
  std::string identity;            // of the tools used: a change makes the step run again
  std::vector<std::string> tools;  // programs that it runs, by path: their content counts
  std::size_t search = 0;          // where names are looked for: place in Plan::searches + 1; 0: nowhere
  bool always = false;             // runs every time
  // Of a step that is not known from an earlier run: results that are newer than what they are made from count as made.
  bool by_time = false;
  // Its first output tells what other steps need and make besides what they say (engine/learned.h); these wait for it.
  bool teaches = false;
  bool late = false;    // its actions are worked out when it is about to run
  std::size_t key = 0;  // by which the reader knows it then
  bool again = false;   // it starts the description's own make program, which is this one
  std::string calls;    // where inner makes note how they were called
  std::vector<Compilation> compilations;
  bool in_default = true;
  Place place;
};

// A target as it will be made.
struct PlannedTarget {
  std::string name;
  TargetKind kind = TargetKind::program;
  Place place;
  bool in_default = true;
  bool installed = false;                    // the description installs it: users get it
  std::string output;                        // absolute; empty when there is none
  std::vector<std::string> names;            // further names of the result (links), absolute
  std::string shared_name;                   // the name written into a shared library
  std::vector<std::string> include_folders;  // of the first compiled language, in order
  std::vector<std::string> system_include_folders;
  std::vector<std::string> definitions;
  std::vector<std::string> compile_options;
  std::vector<std::string> link_items;  // in link order
  std::vector<std::string> run_path;
  bool is_started_by_runtime = false;  // the result is a script that starts a runtime with it
  std::string starter;                 // absolute: the script by which users start it; empty: it needs none
  std::vector<std::string> uses;       // targets of the tree that it links, directly or not
  std::vector<std::size_t> steps;      // indices into Plan::steps
  std::size_t sources = 0;
  std::string why;  // what made it a target, where that was found out and not read; else empty
};

struct Plan {
  std::string tree;
  std::string kiln;
  std::string work;
  std::string original;     // the tree that `work` is a copy of, or `tree`, if it is in the kiln; empty: none is a copy
  std::string journal;      // absolute: where what steps are made from is remembered
  std::uint64_t maker = 0;  // tells calls apart that follow the same journal
  std::vector<Step> steps;
  std::vector<SearchPath> searches;
  std::vector<std::string> compiler_folders;  // where compilers that recipes call look for headers by themselves
  std::vector<PlannedTarget> targets;
  std::vector<TestCase> tests;
  std::vector<WrittenFile> files;
  std::map<std::string, std::string> environment;  // of every command
  std::vector<std::string> writable;               // where commands of the description may write; empty: anywhere
  std::vector<std::string> prefixes;               // that the user has pointed at: results may lead into them
  std::vector<InstallItem> install;
  std::vector<LeftOut> not_installed;  // rules for installing that are not followed
  std::vector<std::string> notes;      // decisions that a user should know of
  std::map<std::string, std::string>
      shown;  // bin/ and lib/ entries: name in the kiln -> file, both relative to the kiln

  // The number of a search path for Step::search.
  std::size_t search_number(SearchPath path) {
    const auto it = std::find(searches.rbegin(), searches.rend(), path);
    if (it != searches.rend()) return static_cast<std::size_t>(searches.rend() - it);
    searches.push_back(std::move(path));
    return searches.size();
  }
  // The tree is a copy in the kiln, which the build may write to.
  [[nodiscard]] bool in_copy() const { return tree.size() > kiln.size() && tree.starts_with(kiln + "/"); }
  // The folder that the description's own operations write to.
  [[nodiscard]] const std::string& output_root() const { return in_copy() ? kiln : work; }
  // The folder of what is made of results once they are linked.
  [[nodiscard]] std::string finished() const { return kiln + "/finished"; }
  // A file or folder lies where steps put what they make (files::lies_below).
  [[nodiscard]] bool lies_among_results(const std::string& path) const;
  // A file by its name from the folder of results, else from the kiln or the tree, wherever it lies in one of them.
  [[nodiscard]] std::string short_path(const std::string& path) const;
  // A folder of the copy as it is in the tree; empty when it is none of the copy.
  [[nodiscard]] std::string in_original(const std::string& path) const {
    const std::string& copy = in_copy() ? tree : work;
    if (original.empty() || !path.starts_with(copy) || (path.size() > copy.size() && path[copy.size()] != '/'))
      return {};
    return original + path.substr(copy.size());
  }
  [[nodiscard]] const PlannedTarget* target(const std::string& name) const {
    for (const auto& target : targets) {
      if (target.name == name) return &target;
    }
    return nullptr;
  }
};

}  // namespace coctilis::model
