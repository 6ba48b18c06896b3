// The facts of a description: what is built out of what, with which settings, what is tested and what is installed. No
// word of any description's own language is left in them; the plan makes steps of them.
#pragma once

#include <cstddef>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/environment.h"

namespace coctilis::model {

enum class TargetKind {
  program,
  static_library,
  shared_library,
  module_library,
  object_set,
  interface_library,
  custom,
  finished,      // made of results after linking
  class_library  // classes in an archive, or an assembly, that a runtime takes
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
    case TargetKind::finished: return "finished";
    case TargetKind::class_library: return "class library";
  }
  return "";
}

// One thing that a step does: a process, or something the engine does itself.
struct Action {
  enum class How { process, shell, builtin };
  How how = How::process;
  std::vector<std::string> argv;  // for builtin: the name of the action and its operands
  std::string folder;
  Environment environment;
  bool may_fail = false;                   // its failing does not end the step
  bool silent = false;                     // the description asks not to show it
  [[nodiscard]] std::string text() const;  // the command as a POSIX shell would read it; an operation in plain words
};

// Makes a folder (absolute) with all above it. `where`: a folder that is there, in which the action takes place.
[[nodiscard]] Action make_folder(const std::string& path, const std::string& where);

// Commands that make files. All paths are absolute.
struct Rule {
  std::vector<std::string> outputs;  // the first names it
  std::vector<std::string> byproducts;
  std::vector<std::string> inputs;  // files whose content matters
  std::vector<std::string> after;   // files that must exist before
  std::vector<Action> actions;
  std::string dependency_file;  // that the commands write, naming further inputs (make rule syntax); empty: none
  std::string output_folder;    // absolute: that the commands fill, and nothing else; empty: none
  // A result that came with the tree counts as made while it is newer than what it is made from.
  bool by_time = false;
  // Why its commands cannot be followed: whoever needs the rule is told.
  std::optional<Problem> refused;
  Place place;
};

// ---- compiling ------------------------------------------------------------------------------------------------------

// A folder in which headers are looked for.
struct IncludeFolder {
  enum class Kind {
    before,  // files that were written for the folder that follows; not the description's own words
    plain,
    system,  // headers of others: no warnings about them
    after    // looked at when nothing else has the header
  };
  Kind kind = Kind::plain;
  std::string path;  // absolute
};

// A standard of a language, by its short year: "17".
struct Standard {
  std::string year;
  bool extensions = true;
};

enum class PositionIndependence { none, program, library };

// How lines of a Fortran source are laid out, and whether it is preprocessed: by the ending of its name, or as said.
enum class SourceForm { by_name, fixed, free };
enum class Preprocessing { by_name, no, yes };

// What the sources of one language of a unit are compiled with.
struct CompileSettings {
  std::vector<std::string> definitions;  // NAME or NAME=VALUE
  std::vector<IncludeFolder> include_folders;
  std::vector<std::string> first_options;  // words that stand before those of the variant
  std::optional<Standard> standard;        // nothing: the compiler's own
  PositionIndependence position_independence = PositionIndependence::none;
  std::string visibility;  // of symbols that say nothing themselves: "hidden"; empty: the compiler's own
  bool inlines_hidden = false;
  bool link_time_optimisation = false;
  bool warnings_are_errors = false;
  std::vector<std::string> options;        // words that stand behind all that
  std::vector<std::string> first_headers;  // included before every source: absolute, or a name to be looked for
  SourceForm source_form = SourceForm::by_name;
  Preprocessing preprocessing = Preprocessing::by_name;
  std::string module_folder;  // absolute: where modules that sources define go; empty: the unit's own
};

// Sources of one language in a unit.
struct Part {
  std::string language;
  CompileSettings settings;
};

struct UnitSource {
  static constexpr std::size_t ready = static_cast<std::size_t>(-1);
  std::string path;                  // absolute
  std::size_t part = ready;          // in Unit::parts; `ready`: an object as it is
  std::vector<std::string> options;  // words for this source alone
  std::vector<std::string> inputs;   // absolute: files besides, whose content matters
  SourceForm source_form = SourceForm::by_name;
  Preprocessing preprocessing = Preprocessing::by_name;
  std::string quote_folder;  // absolute: searched for names in quotes besides the source's own; empty: none
  Place place;
};

// ---- linking --------------------------------------------------------------------------------------------------------

// A word of the link line with what it needs behind it.
struct LinkItem {
  std::string unit;                // of the tree: its file for linkers is meant; empty: `text` is meant
  std::string text;                // a file, -lNAME, an option; empty: it only stands for what it needs
  bool archive = false;            // named twice, it is searched twice
  std::vector<std::size_t> needs;  // in LinkSettings::items
};

struct LinkSettings {
  std::string language;                // whose compiler links
  std::vector<std::string> languages;  // of all that is linked in, as far as the tree tells
  std::vector<LinkItem> items;
  std::vector<std::size_t> named;          // the items that the description names for this unit, in its order
  std::vector<std::string> folders;        // absolute
  std::vector<std::string> first_options;  // words that stand before those of the variant
  bool link_time_optimisation = false;
  std::vector<std::string> kind_options;   // words for all units of its kind
  std::vector<std::string> options;        // words behind those of the variant
  std::vector<std::string> libraries;      // words that end every link
  bool exports_symbols = false;            // a program whose symbols modules use
  bool run_path = true;                    // the place of shared libraries is written into it
  std::vector<std::string> run_folders;    // absolute: further folders of the run path
  std::vector<std::string> object_sets;    // units whose objects are linked in
  std::vector<std::string> shared_behind;  // units: shared libraries that only other shared libraries need
};

// ---- units ----------------------------------------------------------------------------------------------------------

// Another unit that this one needs.
struct Use {
  enum class How {
    link,  // what must be there before that one is compiled must be there before this one is
    first  // that one is made before this one is compiled
  };
  std::string unit;
  How how = How::link;
};

// A package of Go, as far as its compiler and linker want to know. All paths are absolute.
struct GoPackage {
  // A pattern of //go:embed with the files that it takes.
  struct Embed {
    std::string pattern;
    std::vector<std::pair<std::string, std::string>> files;  // name from the package, and where it lies
  };
  std::string path;  // by which others import it
  std::string name;  // of its package clause
  std::string kit;   // the folder of the distribution
  std::string system, processor;
  std::string language;                        // "go1.17": the release that it is written in
  std::vector<std::string> assembler;          // its sources in assembler
  std::vector<std::string> headers;            // that these include
  std::map<std::string, std::string> imports;  // as they are written -> a unit, or an archive of the standard library
  std::vector<Embed> embeds;
  // Sources that call C, those in C and C++ themselves, and what both are compiled and linked with.
  std::vector<std::string> calling_c;
  std::vector<std::string> c_sources;
  std::vector<std::string> c_options;
  std::vector<std::string> c_link_words;
  std::string c_compiler, cxx_compiler;
  bool is_main = false;
  bool own_paths = false;  // its code knows its sources by where they lie, and not from its module's path
  // Of a program: what it tells of how it was built, as a text of the language (empty: nothing); what its linker is
  // told besides; and the archives of the standard library by import path.
  std::string build_information;
  std::vector<std::string> link_words;
  std::vector<std::pair<std::string, std::string>> standard;
};

// What a unit has that is compiled whole, by a language whose results are archives of classes, or assemblies.
struct Whole {
  // A file that goes into the result as it is.
  struct Resource {
    std::string from;  // absolute
    std::string name;  // in the result
  };
  std::string compiler;                  // absolute
  std::string runtime;                   // absolute: what starts its programs
  std::string entry;                     // the class that a program begins with; empty: it is no program
  std::string level;                     // of the language, as its compiler takes it; empty: its own
  std::string encoding;                  // of its sources
  std::vector<std::string> options;      // words for the compiler
  std::vector<std::string> first_lines;  // that count as if each of its sources began with them
  std::vector<std::string> libraries;    // absolute: archives from elsewhere that it is compiled and runs with
  std::vector<std::string> units;        // of the tree that it is compiled and runs with, in order
  std::vector<Resource> resources;
  // Of an archive of classes: what its manifest says besides; the unit whose classes it has (empty: its own), and which
  // of them, by patterns of paths.
  std::vector<std::pair<std::string, std::string>> manifest;
  std::string classes_of;
  std::vector<std::string> class_includes, class_excludes;
  std::optional<GoPackage> package;  // of Go
  // Of a language that coctilis.toml tells of: the commands that make it, the last of which makes the result.
  std::vector<Rule> rules;
};

// What a unit makes.
struct UnitResult {
  std::string file;                // absolute; empty when it makes none
  std::string linker_file;         // what others link: the plain name of a shared library, else the file
  std::string shared_name;         // the name programs look for when they start ("libkiln.so.2"); empty: none
  std::vector<std::string> names;  // links beside the file, absolute, each to be made
};

// Commands that go with a unit's own step.
struct UnitCommands {
  std::vector<Action> actions;
  std::vector<std::string> inputs;  // absolute
};

// Something to be built.
struct Unit {
  std::string name;
  TargetKind kind = TargetKind::program;
  bool external = false;    // it exists already, or only stands for what its users need
  bool in_default = true;   // built when nothing is named
  bool installed = false;   // users get it
  std::string folder;       // absolute: the folder of the description that declares it
  std::string work_folder;  // absolute: where its commands run, and below which its objects lie
  UnitResult result;
  std::vector<Part> parts;
  std::vector<UnitSource> sources;     // in order: so are the objects on the link line
  std::vector<std::string> generated;  // absolute: files made by rules that its sources need
  std::vector<Use> uses;
  LinkSettings link;
  UnitCommands before;          // before it is linked
  UnitCommands behind;          // after that
  std::optional<Rule> command;  // of a command target: all that it does
  std::optional<Whole> whole;   // how it is made, where that is one step: of its one part
  std::string why;              // what made it one, where that was found out and not read; else empty
  Place place;
};

// ---- tests and installing -------------------------------------------------------------------------------------------

struct TestCase {
  std::string name;
  std::vector<std::string> command;
  std::string folder;
  std::map<std::string, std::optional<std::string>> environment;  // a value sets, nothing unsets
  double limit_seconds = 0;                                       // 0: the general limit
  bool will_fail = false;
  std::vector<std::string> pass_patterns;
  std::vector<std::string> prints;  // patterns that its output has to have besides its exit code being 0
  std::vector<std::string> fail_patterns;
  std::vector<std::string> skip_patterns;
  int skip_code = -1;        // the exit code that means skipped; -1: none
  int error_code = -1;       // the exit code that is a failure also where failing is expected; -1: none
  bool test_lines = false;   // what it prints tells of its points by the Test Anything Protocol
  std::string program;       // unit that it runs; empty if it is none of the tree
  bool operation = false;    // its command is an operation of ours, by name
  bool own_script = false;   // its command makes this program run a script of the description
  std::string not_followed;  // why it is not run: it asks for what is not done here; empty: it is
  bool disabled = false;
  std::vector<std::string> needs_files;
  std::vector<std::string> after;    // tests that run before it
  bool alone = false;                // no other may run beside it
  std::vector<std::string> locks;    // what only one of those that name it may use at a time
  unsigned jobs = 1;                 // processors that it keeps busy
  double cost = 0;                   // how long it takes, as the description has it; the longest begin first
  std::vector<std::string> sets_up;  // fixtures that it prepares, uses and takes away again
  std::vector<std::string> requires_;
  std::vector<std::string> cleans_up;
  Place place;
};

// One thing that the description installs.
struct InstallItem {
  enum class Kind { file, folder, link, text };
  struct Pattern {
    bool regex = false;  // else a file name pattern
    std::string text;
    bool exclude = false;
    unsigned mode = 0;  // of files that match; 0: as the rest
  };
  Kind kind = Kind::file;
  std::string from;   // file, folder: absolute, or empty for an empty folder; link: what it points at; text: the text
  std::string to;     // from the prefix; absolute: outside of it
  unsigned mode = 0;  // permission bits; 0: as the source
  bool optional = false;
  bool keep_mode = false;
  bool only_matching = false;  // of a folder: only files that a pattern takes
  std::vector<Pattern> patterns;
  std::string target;                 // the unit whose result it is
  bool relink = false;                // linked anew when its run path is another than in the kiln
  bool link_folders_too = false;      // the folders that it was linked from are in its run path as well
  std::vector<std::string> run_path;  // where it looks for libraries once it is installed
  Place place;
};

// A file that the plan itself writes before any step runs.
struct WrittenFile {
  std::string path;
  std::string content;
  bool executable = false;
};

// Something of the description that is not followed on purpose.
struct LeftOut {
  std::string kind;  // "documentation"
  std::string name;
  Place place;
  std::string reason = {};
};

struct Build {
  std::vector<Rule> rules;
  std::vector<Unit> units;
  // Compilers of languages that the tool chain has none for, by language: the command with its first options.
  std::map<std::string, std::vector<std::string>> compilers;
  std::vector<TestCase> tests;
  std::vector<InstallItem> install;
  // Where shared libraries of the tree are installed, by unit; from the prefix, or absolute.
  std::map<std::string, std::string> installed;
  std::vector<LeftOut> not_installed;  // rules for installing that are not followed
  std::vector<WrittenFile> files;
  std::vector<std::string> notes;  // decisions that a user should know of
};

}  // namespace coctilis::model
