// Which libraries of the system define a symbol: an index over what development packages have installed.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "locate/locator.h"

namespace coctilis::locate {

// The symbols that need no word from anybody: of the C library and the libraries of the compilers of `languages`;
// `with_mathematics`: those of the C library's part for that, too, which C programs have to name.
[[nodiscard]] std::set<std::string> symbols_of_toolchain(const Locator& locator, const std::set<std::string>& languages,
                                                         bool with_mathematics);

// For each of `symbols` that any library defines which programs can be linked with: the names of all such libraries, as
// after -l. Those that `first` names are looked at before all others: what they define nobody else is asked for. Kept
// until a library changes, comes or goes.
[[nodiscard]] std::map<std::string, std::vector<std::string>> libraries_with(const Locator& locator,
                                                                             const std::set<std::string>& symbols,
                                                                             const std::set<std::string>& first);

}  // namespace coctilis::locate
