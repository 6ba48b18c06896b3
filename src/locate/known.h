// The table of well-known libraries, headers and programs: names they are asked for by, and the Debian packages that
// have them. It comes from data/libraries.toml.
#pragma once

#include <string>
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
  std::string component_library;            // "boost_{}"
  std::string component_target;             // "Boost::{}"
  std::vector<std::string> header_folders;  // folders below those of headers that may hold them: "bullet"
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
  std::string name;                   // of the package, as descriptions ask for it; letter case counts
  std::string variable;               // gets the program's path
  std::vector<std::string> programs;  // the first that is there
  std::string target;                 // the imported program; empty: there is none
  bool parts = false;                 // it is asked for with parts, which are all there when it is
  std::vector<std::pair<std::string, std::string>> beside;  // variables for other programs
  std::vector<std::pair<std::string, std::string>> told;    // variables for what it prints when it gets a word
  std::vector<std::pair<std::string, std::string>> values;  // variables with values of their own
};

// Something that the C library has on systems like this one.
struct KnownCLibraryPart {
  std::string name;
  std::string source;                                      // a program that tells whether it does
  std::string target;                                      // the imported target
  std::string package;                                     // has it where the C library does not
  std::vector<std::pair<std::string, std::string>> found;  // variables that are set when it does
};

// nullptr when the name is not known.
[[nodiscard]] const KnownCLibraryPart* known_c_library_part(const std::string& name);
[[nodiscard]] const KnownProgram* known_program(const std::string& package);
[[nodiscard]] const KnownLibrary* known_library(const std::string& name);
// The library that a word of a text means: one of its names, letter case aside, unless that is an everyday word.
[[nodiscard]] const KnownLibrary* known_by_word(const std::string& word);
// The library that is linked as -lNAME.
[[nodiscard]] const KnownLibrary* known_by_link_name(const std::string& link_name);
// The Debian package that has a header ("zlib.h", "curl/curl.h"), a program, or a .pc module; empty when not known.
[[nodiscard]] std::string package_of_header(const std::string& header);
[[nodiscard]] std::string package_of_program(const std::string& program);
[[nodiscard]] std::string package_of_module(const std::string& module);

}  // namespace coctilis::locate
