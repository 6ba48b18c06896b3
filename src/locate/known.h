// The table of well-known libraries, headers and programs: names they are asked for by, and the Debian packages that
// have them. It comes from data/libraries.toml.
#pragma once

#include <map>
#include <string>
#include <utility>
#include <vector>

namespace coctilis::locate {

struct KnownLibrary {
  std::string name;
  std::vector<std::string> asked_as;  // other names that descriptions use, letter case counts
  std::vector<std::string> modules;   // .pc files
  std::vector<std::string> headers;
  std::vector<std::string> libraries;  // as after -l; every one is linked
  std::vector<std::string> targets;    // names of imported targets that stand for it
  // Components by name are libraries of their own: "{}" stands for the component. Empty: it has none.
  std::string component_library;  // "boost_{}"
  std::string component_target;   // "Boost::{}"
  // Components that are entries of their own, by name. They are there without being asked for as well.
  std::vector<std::pair<std::string, std::string>> component_entries;
  std::vector<std::string> fortran_modules;  // that it has, in small letters
  std::vector<std::string> header_folders;   // folders below those of headers that may hold them: "bullet"
  std::vector<std::pair<std::string, std::string>> library_targets;  // more imported libraries, by what follows -l
  std::vector<std::pair<std::string, std::string>> program_targets;  // imported programs, by the program's name
  // More variables that descriptions read, with values in which {include}, {library}, {libraries}, {version},
  // {library:NAME}, {include:HEADER} and {program:NAME} stand for what was found.
  std::vector<std::pair<std::string, std::string>> variables;
  // The program that tells how to compile and link with it, and the words that it is asked with, where there is one.
  struct Told {
    std::string program;   // "wx-config"; empty: there is none
    std::string compile;   // "--cxxflags"
    std::string link;      // "--libs"; the components follow in one word, separated by commas
    std::string version;   // "--version"
    std::string part;      // the component that stands for all that is usual
    std::string use_file;  // what NAME_USE_FILE is set to
  } told;
  // Parts that descriptions ask for one by one.
  struct Part {
    std::string target;
    std::string header;  // empty: nobody asks for it
    std::string library;
    std::string found_variable;
    std::string file_variable;
    std::string folder_variable;
    bool adds = false;  // it is one of the libraries of the whole
  };
  std::vector<Part> parts;
  std::vector<std::string> parts_add_to;  // variables for the libraries of the whole
  // A library that comes with it.
  struct Beside {
    std::string library;  // empty: there is none
    std::vector<std::string> targets;
    std::string own_variable;
    std::string both_variable;
  } beside;
  std::string version_header;  // header that defines ...
  std::string version_macro;   // ... this macro with the version as text
  std::string package;
};

// A package that stands for a program.
struct KnownProgram {
  std::string name;                               // of the package, as descriptions ask for it; letter case counts
  std::string variable;                           // gets the program's path
  std::vector<std::string> programs;              // the first that is there
  std::string target;                             // the imported program; empty: there is none
  bool parts = false;                             // it is asked for with parts, which are all there when it is
  std::map<std::string, std::string> components;  // component -> the program that it needs
  std::vector<std::pair<std::string, std::string>> beside;  // variables for other programs
  std::vector<std::pair<std::string, std::string>> told;    // variables for what it prints when it gets a word
  std::vector<std::pair<std::string, std::string>> values;  // variables with values of their own
  std::vector<std::pair<std::string, std::string>> files;   // written into the folder of results: name and content
};

// A package that is a part of the tool chain or of the C library. "{language}" and "{library}" in the target and in
// names of variables stand for the language in which it is put and the library of the compiler's family; values may
// also have "{found}", "{option}" and "{option-free}", and are empty when it is not there, but for "{found}".
struct KnownCompilerPart {
  std::string name;
  std::string shown;                                           // what users see
  std::string source;                                          // a program that tells whether it is there
  std::vector<std::string> options;                            // under which it is; tried in order; "" is none
  std::vector<std::string> compiled_with;                      // those of them that are for compiling, too
  std::pair<std::string, std::string> preferred;               // a variable, and the option that counts where it is on
  std::vector<std::string> languages;                          // it is put in each; empty: once
  std::map<std::string, std::string> library;                  // by family of compilers, "any" for all others
  std::map<std::string, std::string> package;                  // has it where it is not there; by family
  std::string target;                                          // the imported target
  std::vector<std::pair<std::string, std::string>> variables;  // name and value
  [[nodiscard]] std::string library_for(const std::string& family) const { return for_family(library, family); }
  [[nodiscard]] std::string package_for(const std::string& family) const { return for_family(package, family); }

 private:
  static std::string for_family(const std::map<std::string, std::string>& by_family, const std::string& family);
};

// A package that is an interpreter, with headers and library for programs that hold it.
struct KnownInterpreter {
  std::string name;
  std::vector<std::string> programs;
  std::string module;                   // the .pc module
  std::string package;                  // has headers and library
  std::string development;              // components that begin so ask for headers and library
  std::vector<std::string> components;  // all of those
  std::string interpreter_target, module_target, embedded_target;  // what follows "NAME::"
  std::map<std::string, std::string> prefixes;          // name it is asked for by -> another beginning of its variables
  std::vector<std::string> library_only, program_only;  // names that mean a half of it
  std::map<std::string, std::string> library_commands;  // commands that make a module for it -> the package's name
  std::string ask;                                      // prints `places`, each behind "tells "
  std::vector<std::string> places;                      // endings of the variables for them
  // Headers that come with a module of it: `ask` prints the folders that are looked through behind "looks ", the place
  // of the headers and the version behind "tells ".
  struct AddOn {
    std::string component;
    std::string name;
    std::string package;
    std::string ask;
  };
  std::vector<AddOn> add_ons;
};

// A package that is there because this program does what it is for. "{self}" in values is this program.
struct KnownOwnWork {
  std::string name;
  std::string version;
  std::vector<std::pair<std::string, std::string>> variables;
};

// A module of the toolkit that project files (*.pro) are mostly written for.
struct KnownToolkitModule {
  std::string name;      // of its .pc file behind "Qt5" or "Qt6"
  std::string package5;  // has it for the older one; empty: that has no such module
  std::string package6;
};
// nullptr when the name is not known.
[[nodiscard]] const KnownToolkitModule* known_toolkit_module(const std::string& module);

// The library that has a Fortran module; nullptr when none is known.
[[nodiscard]] const KnownLibrary* known_by_fortran_module(const std::string& module);
// The package that has a Fortran module; empty: it is not known.
[[nodiscard]] std::string package_of_fortran_module(const std::string& module);

// Folders in which compilers keep their results between builds, of those that are there; absolute.
[[nodiscard]] std::vector<std::string> compiler_cache_folders();

// nullptr when the name is not known.
[[nodiscard]] const KnownCompilerPart* known_compiler_part(const std::string& name);
// The same, letter case aside.
[[nodiscard]] const KnownCompilerPart* known_compiler_part_by_word(const std::string& word);
[[nodiscard]] const KnownInterpreter* known_interpreter(const std::string& package);
[[nodiscard]] const KnownOwnWork* known_own_work(const std::string& package);
// All interpreters.
[[nodiscard]] const std::vector<KnownInterpreter>& known_interpreters();
[[nodiscard]] const KnownProgram* known_program(const std::string& package);
[[nodiscard]] const KnownLibrary* known_library(const std::string& name);
// The library that a word of a text means: one of its names, letter case aside, unless that is an everyday word.
[[nodiscard]] const KnownLibrary* known_by_word(const std::string& word);
// The library that is linked as -lNAME.
[[nodiscard]] const KnownLibrary* known_by_link_name(const std::string& link_name);
// The library that has a header ("zlib.h", "curl/curl.h").
[[nodiscard]] const KnownLibrary* known_by_header(const std::string& header);
// Whether a header is one that only systems of another kind have ("windows.h"); letter case does not count.
[[nodiscard]] bool is_header_of_other_system(const std::string& header);
// The Debian package that has a header ("zlib.h", "curl/curl.h"), a program, or a .pc module; empty when not known.
[[nodiscard]] std::string package_of_header(const std::string& header);
[[nodiscard]] std::string package_of_program(const std::string& program);
[[nodiscard]] std::string package_of_module(const std::string& module);

}  // namespace coctilis::locate
