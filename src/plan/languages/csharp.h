// What steps that compile C# do themselves.
#pragma once

#include <string>
#include <vector>

namespace coctilis::plan {

// An operation of steps (plan/operations.h). FOLDER LINES SOURCE...: a copy of each source in the folder, 0.cs and so
// on, that begins with the lines that it does not have itself. Compilers tell places of the source (#line, ECMA-334,
// 6.5.8).
int begin_sources(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
