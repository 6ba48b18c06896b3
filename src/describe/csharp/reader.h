// The readers of trees in C#: *.csproj, and *.sln where it names such projects.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::csharp {

[[nodiscard]] Reader reader();

// Whether a solution file names projects of C# and none that is compiled otherwise.
[[nodiscard]] bool is_solution(const std::string& path);
// All projects of a solution. Errors: those of projects; one that is not there (Exit::description).
[[nodiscard]] Result<model::Project> read_solution(const ReadRequest& request);

}  // namespace coctilis::describe::csharp
