// What the small program that starts others (sandbox/entry.cpp) tells the one that started it.
#pragma once

namespace coctilis::sandbox {

// The name of the first process in a sandbox.
inline constexpr const char* first_process = "coctilis-box";

struct Report {
  enum class What : int {
    nothing,
    ended,        // value: as waitpid(2) gives it; where: why it was ended from outside, if it was
    not_started,  // value: errno of the program's start
    no_sandbox    // value: errno; where: of what
  };
  What what = What::nothing;
  int value = 0;
  char where[32] = {};
};

}  // namespace coctilis::sandbox
