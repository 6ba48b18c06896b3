// What is expected of a program, held against what was seen of it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "model/outcome.h"
#include "smoke/observation.h"

namespace coctilis::smoke {

struct Expectations {
  std::optional<int> exit = 0;             // nothing: any exit code
  bool tells_exit = false;                 // the exit code is one that the user has asked for
  std::optional<std::string> output;       // a regular expression (RE2) that the output has
  std::vector<std::string> pass_patterns;  // of the description's language: one of them decides, not the exit code
  std::vector<std::string> fail_patterns;  // none of these may be there
  std::vector<std::string> skip_patterns;  // one of these: it says itself that it cannot be run here
  int skip_code = -1;                      // the same said by an exit code; -1: none
  int not_followed_code = -1;              // this exit code says that it could not be followed; -1: none
  bool will_fail = false;                  // failing is what is expected
  bool excuses = false;                    // what it says it lacks excuses it (excuses.h)
};

struct Judgement {
  model::Verdict verdict = model::Verdict::passed;
  std::string reason;
};

// Whether the program came to its end by itself: else failed (stopped at the limit, ended by a signal) or skipped (the
// run was interrupted), with the reason. `emulated`: it ran under an emulator.
[[nodiscard]] Judgement judge_end(const Observation& seen, bool emulated);

// All that is expected.
[[nodiscard]] Judgement judge(const Observation& seen, const Expectations& expected, bool emulated);

}  // namespace coctilis::smoke
