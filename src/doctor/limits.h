// What a program came to that took more than the sandbox gives (base/sandbox.h, Limits): how its output tells it, and
// what to do. The same for steps and for checks.
#pragma once

#include "model/outcome.h"

namespace coctilis::doctor {

// RE2, multi-line, with one group.
inline constexpr const char* took_too_much_memory = R"((?m)^(\[it took too much memory, and was ended\])$)";
inline constexpr const char* took_too_long = R"((?m)^(\[it took too long, and was ended\])$)";
inline constexpr const char* wrote_too_much = R"((?m)(File size limit exceeded|File too large))";

[[nodiscard]] model::Diagnosis too_much_memory();
[[nodiscard]] model::Diagnosis too_long();
[[nodiscard]] model::Diagnosis file_too_large();

}  // namespace coctilis::doctor
