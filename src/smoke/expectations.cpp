#include "smoke/expectations.h"

#include <re2/re2.h>

#include "base/text.h"
#include "smoke/excuses.h"
#include "smoke/patterns.h"
#include "smoke/test_lines.h"

namespace coctilis::smoke {

using model::Verdict;

std::vector<std::string> lines_like_errors(const std::string& output, const std::vector<std::string>& benign,
                                           std::size_t most) {
  static const RE2 error(
      R"((?i)\b(?:errors?|fatal|critical|failed|failure|cannot|can't|could not|couldn't|unable to|denied|no such file|not found|panic|assertion|segmentation fault|traceback)\b)");
  static const RE2 none(
      R"((?i)\b(?:no|0|zero|without|free of) (?:\w+ )?(?:errors?|failures?|failed)\b|\b(?:errors?|failures?|failed)\s*[:=]\s*(?:0|none|no|ok)\b|\b0 failed\b)");
  std::vector<std::string> out;
  for (const auto& line : text::split(output, '\n')) {
    if (out.size() >= most) break;
    if (!RE2::PartialMatch(line, error) || RE2::PartialMatch(line, none)) continue;
    if (std::any_of(benign.begin(), benign.end(), [&](const auto& pattern) { return is_found(pattern, line); }))
      continue;
    out.push_back(text::clip(text::printable_line(std::string(text::trim(line))), 200));
  }
  return out;
}

Expectations expectations_of(const model::Expected& asked, const model::Surroundings& surroundings) {
  Expectations out;
  out.exit = asked.exit;
  out.tells_exit = true;
  out.output = asked.output;
  out.absent = asked.absent;
  out.in_order = asked.in_order;
  out.at_least = asked.at_least;
  out.forbidden = surroundings.forbid;
  return out;
}

Judgement judge_end(const Observation& seen, bool emulated) {
  if (seen.waited)
    return Judgement(Verdict::failed, "still running after " + text::duration(seen.limit) + "; stopped" +
                                          (emulated ? " (it ran under an emulator)" : ""));
  if (seen.ended.how == Ended::How::interrupted) return Judgement(Verdict::skipped, "interrupted");
  if (seen.ended.how != Ended::How::exited) return Judgement(Verdict::failed, seen.ended.text());
  return {};
}

Judgement judge_forbidden(const Ended& ended, const std::vector<std::string>& forbidden) {
  if (forbidden.empty()) return {};
  if (ended.truncated) return {Verdict::failed, "it prints more than is kept, so that its output cannot be judged"};
  const std::string found = first_found(forbidden, ended.output);
  return found.empty() ? Judgement{} : Judgement(Verdict::failed, "its output has what is forbidden: " + found);
}

namespace {

// What the points of its output come to, those that it has not told included.
Judgement judge_test_lines(const Ended& ended) {
  if (ended.truncated) return {Verdict::failed, "it prints more than is kept, so that its points cannot be counted"};
  const TestLines lines = test_lines(ended.output);
  if (!lines.given_up.empty()) return {Verdict::failed, "it gave up: " + lines.given_up};
  if (!lines.first_failure.empty()) return {Verdict::failed, lines.first_failure};
  if (ended.code != 0) return {Verdict::failed, ended.text()};
  if (!lines.planned) return {Verdict::failed, "its output has no plan (a line '1..N')"};
  if (*lines.planned != lines.points)
    return {Verdict::failed, "its plan has " + text::count(*lines.planned, "point") + ", and it tells of " +
                                 std::to_string(lines.points)};
  if (lines.points == 0) return {Verdict::skipped, lines.skipped_because};
  if (lines.skipped == lines.points) return {Verdict::skipped, "all of its points are skipped"};
  return {Verdict::passed, text::count(lines.points, "point") +
                               (lines.skipped == 0 ? "" : ", " + std::to_string(lines.skipped) + " skipped")};
}

// What the program says by itself: its output's patterns, or its exit code.
Judgement judge_what_it_says(const Observation& seen, const Expectations& expected) {
  const std::string& output = seen.ended.output;
  // What was left out may have had what must not be there, or what is expected.
  const bool judges_output = !expected.fail_patterns.empty() || !expected.pass_patterns.empty() ||
                             !expected.output.empty() || !expected.absent.empty() || !expected.in_order.empty();
  if (seen.ended.truncated && judges_output)
    return Judgement(Verdict::failed, "it prints more than is kept, so that its output cannot be judged");
  if (expected.test_lines) return judge_test_lines(seen.ended);
  if (any_found(expected.fail_patterns, output))
    return Judgement(Verdict::failed, "its output has what must not be there");
  if (!expected.pass_patterns.empty()) {
    if (any_found(expected.pass_patterns, output)) return Judgement(Verdict::passed, "its output has what is expected");
    return Judgement(Verdict::failed,
                     "its output lacks what is expected: " + text::join(expected.pass_patterns, " or "));
  }
  if (Judgement out = judge_forbidden(seen.ended, expected.forbidden); out.verdict != Verdict::passed) return out;
  if (const auto found = first_found(expected.absent, output); !found.empty())
    return Judgement(Verdict::failed, "its output has what must not be there: " + found);
  if (expected.exit && seen.ended.code != *expected.exit) {
    if (!expected.tells_exit) return Judgement(Verdict::failed, seen.ended.text());
    return Judgement(Verdict::failed,
                     "exit code " + std::to_string(seen.ended.code) + ", expected " + std::to_string(*expected.exit));
  }
  for (const auto& pattern : expected.output) {
    if (!is_found(pattern, output)) return Judgement(Verdict::failed, "its output does not contain '" + pattern + "'");
  }
  re2::StringPiece rest(output);
  for (std::size_t i = 0; i < expected.in_order.size(); ++i) {
    if (RE2::FindAndConsume(&rest, line_pattern(expected.in_order[i]))) continue;
    const std::string behind = i == 0 ? std::string{} : " behind '" + expected.in_order[i - 1] + "'";
    return Judgement(Verdict::failed, "its output does not have '" + expected.in_order[i] + "'" + behind);
  }
  if (seen.ended.seconds < expected.at_least)
    return Judgement(Verdict::failed, "it ended after " + text::duration(seen.ended.seconds) + ", and is to run for " +
                                          text::duration(expected.at_least) + " at least");
  std::vector<std::string> found = expected.output;
  found.insert(found.end(), expected.in_order.begin(), expected.in_order.end());
  return Judgement(Verdict::passed,
                   seen.ended.text() + (found.empty() ? "" : ", output has '" + text::join(found, "', '") + "'"));
}

// ": " and the last line that it printed, which is where programs say why; empty when it printed nothing.
std::string last_words(std::string_view output) {
  const std::string_view said = text::trim(output);
  const auto line = said.substr(said.rfind('\n') + 1);
  return line.empty() ? std::string{} : ": " + text::printable_line(text::clip(std::string(line), 120));
}

}  // namespace

Judgement judge(const Observation& seen, const Expectations& expected, bool emulated) {
  Judgement out = judge_end(seen, emulated);
  const std::string& output = seen.ended.output;
  if (out.verdict == Verdict::skipped) return out;
  if (seen.ended.how == Ended::How::exited && expected.skip_code >= 0 && seen.ended.code == expected.skip_code)
    return Judgement(Verdict::skipped,
                     "it says so itself (exit code " + std::to_string(expected.skip_code) + ")" + last_words(output));
  if (any_found(expected.skip_patterns, output)) return Judgement(Verdict::skipped, "it says so itself");
  if (out.verdict == Verdict::passed) out = judge_what_it_says(seen, expected);
  if (out.verdict == Verdict::failed && expected.not_followed_code >= 0 && seen.ended.how == Ended::How::exited &&
      seen.ended.code == expected.not_followed_code)
    return Judgement(Verdict::skipped, "its script asks for what is not understood yet");
  if (out.verdict == Verdict::failed && expected.excuses) {
    if (const std::string excuse = excuse_in(output); !excuse.empty()) return Judgement(Verdict::skipped, excuse);
  }
  const bool gave_up =
      expected.error_code >= 0 && seen.ended.how == Ended::How::exited && seen.ended.code == expected.error_code;
  if (expected.will_fail && !seen.waited && !gave_up && out.verdict != Verdict::skipped) {
    const bool failed = out.verdict == Verdict::failed;
    out.verdict = failed ? Verdict::passed : Verdict::failed;
    out.reason += failed ? ", as the description expects" : ", but the description expects it to fail";
  }
  return out;
}

}  // namespace coctilis::smoke
