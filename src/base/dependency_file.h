// The files in which compilers name the headers they read: "target: file file \" (make rule syntax).
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace coctilis {
// The files after the first colon, unescaped, each once. Targets without files (as -MP writes) add nothing.
[[nodiscard]] std::vector<std::string> parse_dependency_file(std::string_view content);
}  // namespace coctilis
