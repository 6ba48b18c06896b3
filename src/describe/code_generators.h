// What is the same of the toolkit's code generators, whichever description asks for them.
#pragma once

#include <string>
#include <vector>

namespace coctilis::describe {

// The files that a list of resources (*.qrc, absolute) names, absolute: what goes into the program. None when it cannot
// be read.
[[nodiscard]] std::vector<std::string> files_of_resource_list(const std::string& path);

// The command by which a compiler writes down the macros that it has by itself, for generators that do not know them.
// `standard`: the year of C++, or empty.
[[nodiscard]] std::vector<std::string> command_for_predefined_macros(const std::string& compiler,
                                                                     const std::string& standard,
                                                                     const std::string& output);

}  // namespace coctilis::describe
