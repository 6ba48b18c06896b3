// What a build asks of the outside, and what was found for it.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

enum class RequirementKind { toolchain, package, library, program, header, function, type, submodule, file };
[[nodiscard]] constexpr const char* name_of(RequirementKind kind) {
  switch (kind) {
    case RequirementKind::toolchain: return "tool chain";
    case RequirementKind::package: return "package";
    case RequirementKind::library: return "library";
    case RequirementKind::program: return "program";
    case RequirementKind::header: return "header";
    case RequirementKind::function: return "function";
    case RequirementKind::type: return "type";
    case RequirementKind::submodule: return "submodule";
    case RequirementKind::file: return "file";
  }
  return "";
}

struct Requirement {
  RequirementKind kind = RequirementKind::library;
  std::string name;
  std::string constraint;  // ">= 2.1, < 3" or empty
  bool required = true;
  std::string required_by;  // a target, a command of the description, coctilis.toml
  Place place;              // where it is asked for
  std::string form;         // "static" or "shared" when a library must be of that form
};

// How a found thing is used by compilers and linkers.
struct Usage {
  std::vector<std::string> include_folders;
  std::vector<std::string> definitions;  // NAME or NAME=VALUE
  std::vector<std::string> compile_options;
  std::vector<std::string> link_folders;
  std::vector<std::string> link_items;  // absolute files, -lNAME, or options
};

struct Finding {
  Requirement requirement;
  bool found = false;
  std::string where;                // file or folder
  std::string version;              // empty when it cannot be told
  std::string version_source;       // where the version comes from: ".pc file", "header", "shared name", ...
  std::string how;                  // ".pc file", "header and library", "probe", ...
  std::string why_here;             // why this place came first: "--with", "coctilis.toml:4", "PKG_CONFIG_PATH", ...
  std::vector<std::string> others;  // further copies of the same thing that were passed over, with their versions
  std::vector<std::string> looked;  // every place looked at in vain
  std::string reason;               // why what was found does not do
  bool refused = false;             // something of the name is there, but does not do: installing it again won't help
  std::string package;              // the Debian package that has it; empty when unknown
  Usage usage;
};

// A question that the description put to the compiler, with all that is needed to ask it again by hand.
struct Question {
  std::string name;         // the variable that the answer went to
  std::string required_by;  // the command of the description
  Place place;
  std::string value;     // what the description learned from it: "1", "", "8", ...
  std::string language;  // "C" or "C++"
  std::string source;
  std::string command;  // as a shell would read it; file names count from the folder of the source
  std::string end;      // "compiled", "did not compile", "ran, exit code 1", ...
  std::string output;   // of the compiler, then of the program
  bool kept = false;    // the answer was known from before
};

// A prerequisite that the tree's own documents name, while its description does not ask for it.
struct Mention {
  std::string name;     // as it stands there
  std::string package;  // the Debian package; empty when unknown
  bool installed = false;
  Place place;
};

// What differs between a finding and that of the run before.
struct FindingChange {
  std::string what;  // "new", "gone", "found now", "missing now", "changed"
  std::string kind;
  std::string name;
  std::string before;  // "1.2.13 at /usr/lib/...", empty where there is nothing
  std::string after;
};

}  // namespace coctilis::model
