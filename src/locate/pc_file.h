// Reads .pc files: what a library says of its own use. The format is line by line: "name=value" sets a variable,
// "Key: value" a field; ${name} is replaced, $$ is a dollar, # opens a comment, a backslash at the end goes on.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/requirement.h"

namespace coctilis::locate {

// "zlib >= 1.2" as asked for in Requires and Conflicts.
struct PcRequirement {
  std::string name;
  std::string operation;  // "", "=", "!=", "<", "<=", ">", ">="
  std::string version;
  [[nodiscard]] bool met_by(const std::string& have) const;
};

struct PcFile {
  std::string path;
  std::string module;  // the file's name without .pc
  std::string name;
  std::string description;
  std::string version;
  std::map<std::string, std::string> variables;
  std::vector<PcRequirement> requires_;
  std::vector<PcRequirement> requires_private;
  std::vector<PcRequirement> conflicts;
  std::vector<PcRequirement> provides;
  std::vector<std::string> compile_flags;
  std::vector<std::string> link_flags;
  std::vector<std::string> link_flags_private;
};

// Splits "a >= 1, b c" into requirements.
[[nodiscard]] std::vector<PcRequirement> pc_requirements(const std::string& list);

// Reads the text of a .pc file. Errors name path and line (Exit::missing: the library cannot be used).
[[nodiscard]] Result<PcFile> parse_pc(const std::string& content, const std::string& path);

// Where .pc files are looked for.
struct PcSearch {
  std::vector<std::string> folders;
  std::string sysroot;                              // put before the include and link folders that files name
  std::vector<std::string> system_include_folders;  // left out of the result: compilers look there anyway
  std::vector<std::string> system_link_folders;
};

// The search path: `prefixes` first (lib/pkgconfig, lib/MACHINE/pkgconfig, lib64/..., share/...), then
// PKG_CONFIG_PATH, then PKG_CONFIG_LIBDIR if it is set, else the system's folders for `machine`.
// PKG_CONFIG_SYSROOT_DIR gives the sysroot unless `sysroot` does.
[[nodiscard]] PcSearch pc_search(const std::vector<std::string>& prefixes, const std::string& machine,
                                 const std::string& sysroot);

// A module with all that it requires, as one usage.
struct PcModule {
  PcFile file;
  model::Usage usage;
  std::vector<std::string> looked;  // every file name tried when it was not found
  std::string problem;              // why it cannot be used: a missing or wrong requirement, a conflict; empty: it can
  bool found = false;
};

// Looks a module up. `statically` adds what private fields ask of the linker.
[[nodiscard]] PcModule find_pc(const PcRequirement& wanted, const PcSearch& search, bool statically = false);

}  // namespace coctilis::locate
