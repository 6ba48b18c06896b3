// What is expected of a program, held against what was seen of it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "model/asked_check.h"
#include "model/outcome.h"
#include "smoke/observation.h"

namespace coctilis::smoke {

struct Expectations {
  std::optional<int> exit = 0;  // nothing: any exit code
  bool tells_exit = false;      // the exit code is one that the user has asked for
  // Regular expressions (RE2; ^ and $ are the ends of a line) of what the output has, what it must not have, and what
  // it has one behind the other.
  std::vector<std::string> output;
  std::vector<std::string> absent;
  std::vector<std::string> in_order;
  std::vector<std::string> forbidden;      // none of these may be there, in any line
  double at_least = 0;                     // seconds that it must run
  std::vector<std::string> pass_patterns;  // of the description's language: one of them decides, not the exit code
  std::vector<std::string> fail_patterns;  // none of these may be there
  std::vector<std::string> skip_patterns;  // one of these: it says itself that it cannot be run here
  int skip_code = -1;                      // the same said by an exit code; -1: none
  int error_code = -1;                     // this exit code is a failure, whatever is expected; -1: none
  bool test_lines = false;                 // its output tells of its points by the Test Anything Protocol
  int not_followed_code = -1;              // this exit code says that it could not be followed; -1: none
  bool will_fail = false;                  // failing is what is expected
  bool excuses = false;                    // what it says it lacks excuses it (excuses.h)
};

// What a step of a check expects.
[[nodiscard]] Expectations expectations_of(const model::Expected& asked, const model::Surroundings& surroundings);

struct Judgement {
  Judgement() = default;
  Judgement(model::Verdict how, std::string why) : verdict(how), reason(std::move(why)) {}
  model::Verdict verdict = model::Verdict::passed;
  std::string reason;
  std::string cause;   // of a failure, where it is known
  std::string remedy;  // what to do about it
  std::vector<std::string> evidence;
};

// Whether the program came to its end by itself: else failed (stopped at the limit, ended by a signal) or skipped (the
// run was interrupted), with the reason. `emulated`: it ran under an emulator.
[[nodiscard]] Judgement judge_end(const Observation& seen, bool emulated);

// The lines of a program that passed which look like errors and are not said to be benign, at most `most`.
[[nodiscard]] std::vector<std::string> lines_like_errors(const std::string& output,
                                                         const std::vector<std::string>& benign, std::size_t most = 5);

// Of a program that was ended by the check that it ran for, and is not judged by its end: what is forbidden in its
// output.
[[nodiscard]] Judgement judge_forbidden(const Ended& ended, const std::vector<std::string>& forbidden);

// All that is expected.
[[nodiscard]] Judgement judge(const Observation& seen, const Expectations& expected, bool emulated);

}  // namespace coctilis::smoke
