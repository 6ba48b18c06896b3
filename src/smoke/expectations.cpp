#include "smoke/expectations.h"

#include <re2/re2.h>

#include "base/text.h"
#include "smoke/excuses.h"
#include "smoke/patterns.h"

namespace coctilis::smoke {

using model::Verdict;

Judgement judge_end(const Observation& seen, bool emulated) {
  if (seen.waited)
    return {Verdict::failed, "still running after " + text::duration(seen.limit) + "; stopped" +
                                 (emulated ? " (it ran under an emulator)" : "")};
  if (seen.ended.how == Ended::How::interrupted) return {Verdict::skipped, "interrupted"};
  if (seen.ended.how != Ended::How::exited) return {Verdict::failed, seen.ended.text()};
  return {};
}

namespace {

// What the program says by itself: its output's patterns, or its exit code.
Judgement judge_what_it_says(const Observation& seen, const Expectations& expected) {
  const std::string& output = seen.ended.output;
  // What was left out may have had what must not be there, or what is expected.
  if (seen.ended.truncated && (!expected.fail_patterns.empty() || !expected.pass_patterns.empty() || expected.output))
    return {Verdict::failed, "it prints more than is kept, so that its output cannot be judged"};
  if (any_found(expected.fail_patterns, output)) return {Verdict::failed, "its output has what must not be there"};
  if (!expected.pass_patterns.empty()) {
    if (any_found(expected.pass_patterns, output)) return {Verdict::passed, "its output has what is expected"};
    return {Verdict::failed, "its output lacks what is expected: " + text::join(expected.pass_patterns, " or ")};
  }
  if (!expected.exit) return {Verdict::passed, seen.ended.text()};
  if (seen.ended.code != *expected.exit) {
    if (!expected.tells_exit) return {Verdict::failed, seen.ended.text()};
    return {Verdict::failed,
            "exit code " + std::to_string(seen.ended.code) + ", expected " + std::to_string(*expected.exit)};
  }
  if (expected.output && !RE2::PartialMatch(output, *expected.output))
    return {Verdict::failed, "its output does not contain '" + *expected.output + "'"};
  return {Verdict::passed, seen.ended.text() + (expected.output ? ", output has '" + *expected.output + "'" : "")};
}

}  // namespace

Judgement judge(const Observation& seen, const Expectations& expected, bool emulated) {
  Judgement out = judge_end(seen, emulated);
  const std::string& output = seen.ended.output;
  if (out.verdict == Verdict::skipped) return out;
  if (seen.ended.how == Ended::How::exited && expected.skip_code >= 0 && seen.ended.code == expected.skip_code)
    return {Verdict::skipped, "it says so itself (exit code " + std::to_string(expected.skip_code) + ")"};
  if (any_found(expected.skip_patterns, output)) return {Verdict::skipped, "it says so itself"};
  if (out.verdict == Verdict::passed) out = judge_what_it_says(seen, expected);
  if (out.verdict == Verdict::failed && expected.not_followed_code >= 0 && seen.ended.how == Ended::How::exited &&
      seen.ended.code == expected.not_followed_code)
    return {Verdict::skipped, "its script asks for what is not understood yet"};
  if (out.verdict == Verdict::failed && expected.excuses) {
    if (const std::string excuse = excuse_in(output); !excuse.empty()) return {Verdict::skipped, excuse};
  }
  if (expected.will_fail && !seen.waited) {
    const bool failed = out.verdict == Verdict::failed;
    out.verdict = failed ? Verdict::passed : Verdict::failed;
    out.reason += failed ? ", as the description expects" : ", but the description expects it to fail";
  }
  return out;
}

}  // namespace coctilis::smoke
