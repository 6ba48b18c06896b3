// Compilers and the programs that belong to them.
#pragma once

#include <map>
#include <string>
#include <vector>

namespace coctilis::model {

// A language whose compiler belongs to a tool chain: the names of its drivers, and the variable by which environments,
// makefiles and scripts name one (POSIX.1-2024, XCU make, "Default Rules").
struct DriverName {
  const char* language;
  const char* variable;
  const char* gcc;    // in the family of that name
  const char* clang;  // in that one; empty: it has none
};
inline constexpr DriverName driver_names[] = {
    {"C", "CC", "gcc", "clang"}, {"C++", "CXX", "g++", "clang++"}, {"Fortran", "FC", "gfortran", ""}};

struct Compiler {
  std::string language;          // "C", "C++" or "Fortran"
  std::string path;              // absolute
  std::string family;            // "gcc" or "clang"
  std::string version;           // "12.2.0"
  std::string machine;           // the triplet the compiler names, "x86_64-linux-gnu"
  std::string default_standard;  // what it compiles without -std: "gnu17", "gnu++17"; empty when it cannot be told
  std::string sysroot;
  std::vector<std::string> include_folders;   // built in, in search order
  std::vector<std::string> link_folders;      // built in, in search order
  std::map<std::string, std::string> macros;  // predefined ones that say something: versions, sizes, byte order
  std::string identity;                       // changes when the compiler does; part of every step that uses it
  std::vector<std::string> programs;          // that compile: what is called, and what that starts in turn
  [[nodiscard]] bool present() const { return !path.empty(); }
};

// A linker that a compiler can be told to use, by the word after -fuse-ld=.
struct LinkerChoice {
  std::string name;
  std::string path;
};

struct Toolchain {
  std::string name;  // "gcc 12"
  std::string family;
  std::string version;
  std::string machine;
  std::string origin;                         // how it was come by: "on PATH", "by CC", "in the prefix /opt/x"
  std::string verdict;                        // why it was chosen, or why not; empty until the choice is made
  std::map<std::string, Compiler> compilers;  // by language; those that are present
  std::string assembler;
  std::string linker;  // the program the compiler calls
  std::string linker_version;
  std::string archiver;
  std::string archive_indexer;
  std::string symbol_lister;
  std::string symbol_stripper;
  std::string object_copier;
  std::string c_library;  // "glibc", "musl"; empty when it cannot be told
  std::string c_library_version;
  std::vector<LinkerChoice> linkers;
  std::vector<std::string> sanitizers;  // words after -fsanitize= whose run-time library is there
  // What stands before a program of this tool chain when it is started here: an emulator with its options. Empty for
  // this machine's own programs, and when there is no emulator.
  std::vector<std::string> launcher;
  bool foreign = false;                   // makes programs for another machine than this one
  std::vector<std::string> options;       // of every compilation and link: the sysroot that was asked for
  std::vector<std::string> link_options;  // of every link: the linker that was asked for
  // The compiler of a language; one that is not present when there is none.
  [[nodiscard]] const Compiler& compiler(const std::string& language) const {
    static const Compiler none;
    const auto it = compilers.find(language);
    return it == compilers.end() ? none : it->second;
  }
  // The first that is present: C before C++ before the others.
  [[nodiscard]] const Compiler& any() const {
    static const Compiler none;
    return compilers.empty() ? none : compilers.begin()->second;
  }
  [[nodiscard]] const Compiler& compiler_or_any(const std::string& language) const {
    return compilers.contains(language) ? compilers.at(language) : any();
  }
  // The part of the label that names the compiler and the machine: "gcc12-x86_64".
  [[nodiscard]] std::string short_name() const {
    return family + version.substr(0, version.find('.')) + "-" + machine.substr(0, machine.find('-'));
  }
};

// An environment variable that has a say in the build, and what it changed.
struct EnvironmentUse {
  std::string name;
  std::string value;
  std::string effect;
};

}  // namespace coctilis::model
