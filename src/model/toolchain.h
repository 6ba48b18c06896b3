// Compilers and the programs that belong to them.
#pragma once

#include <map>
#include <string>
#include <vector>

namespace coctilis::model {

struct Compiler {
  std::string language;  // "C" or "C++"
  std::string path;      // absolute
  std::string family;    // "gcc" or "clang"
  std::string version;   // "12.2.0"
  std::string machine;   // the triplet the compiler names, "x86_64-linux-gnu"
  std::string sysroot;
  std::vector<std::string> include_folders;   // built in, in search order
  std::vector<std::string> link_folders;      // built in, in search order
  std::map<std::string, std::string> macros;  // predefined, with their text
  std::string identity;                       // changes when the compiler does; part of every step that uses it
  [[nodiscard]] bool present() const { return !path.empty(); }
};

struct Toolchain {
  std::string name;  // "gcc 12"
  std::string family;
  std::string version;
  std::string machine;
  Compiler c;
  Compiler cxx;
  std::string linker;  // the program the compiler calls
  std::string linker_version;
  std::string archiver;
  std::string archive_indexer;
  std::string symbol_lister;
  std::string symbol_stripper;
  std::string object_copier;
  [[nodiscard]] const Compiler& compiler(const std::string& language) const { return language == "C" ? c : cxx; }
  // The part of the label that names the compiler and the machine: "gcc12-x86_64".
  [[nodiscard]] std::string short_name() const {
    return family + version.substr(0, version.find('.')) + "-" + machine.substr(0, machine.find('-'));
  }
};

}  // namespace coctilis::model
