// Prefixes as programs see them that know nothing of this one: by variables of the environment.
#pragma once

#include <map>
#include <string>
#include <vector>

namespace coctilis::locate {

// The folders of `prefixes`, the first first, as far as they are there, by the variable that names such folders: PATH,
// CPATH, LIBRARY_PATH, LD_LIBRARY_PATH, LD_RUN_PATH, PKG_CONFIG_PATH, ACLOCAL_PATH. `machine`: the triplet whose
// folders below lib/ are meant. (GCC, "Environment Variables Affecting GCC"; ld(1).)
[[nodiscard]] std::map<std::string, std::vector<std::string>> folders_of_prefixes(
    const std::vector<std::string>& prefixes, const std::string& machine);

// The variables by which commands of a tree, and the compilers, *.pc files and programs that they ask, come to
// `prefixes` before anything else. Behind these comes what `environment` has, else what this process has.
[[nodiscard]] std::map<std::string, std::string> environment_for_prefixes(
    const std::vector<std::string>& prefixes, const std::string& machine,
    const std::map<std::string, std::string>& environment);

}  // namespace coctilis::locate
