// What is expected of a program, held against what was seen of it.
#include "smoke/expectations.h"

#include "support.h"

namespace coctilis::smoke {
namespace {

using model::Verdict;

Observation printed(const std::string& output, int code = 0) {
  Observation out;
  out.ended.how = Ended::How::exited;
  out.ended.code = code;
  out.ended.output = output;
  out.ended.seconds = 1;
  return out;
}

TEST(Expectations, PatternsAreOfLines) {
  Expectations expected;
  expected.output = {"^peak \\d+$"};
  EXPECT_EQ(judge(printed("cold\npeak 1222\nend\n"), expected, false).verdict, Verdict::passed);
  EXPECT_EQ(judge(printed("a peak 1222\n"), expected, false).verdict, Verdict::failed);
}

TEST(Expectations, EachOfThemCounts) {
  Expectations expected;
  expected.output = {"a", "b"};
  EXPECT_EQ(judge(printed("a"), expected, false).reason, "its output does not contain 'b'");
  expected.absent = {"c"};
  EXPECT_EQ(judge(printed("a\nb\nan old c\n"), expected, false).reason,
            "its output has what must not be there: an old c");
  expected.absent.clear();
  expected.in_order = {"b", "a"};
  EXPECT_EQ(judge(printed("a\nb\n"), expected, false).reason, "its output does not have 'a' behind 'b'");
  EXPECT_EQ(judge(printed("b\na\n"), expected, false).verdict, Verdict::passed);
  expected.in_order = {"a", "a"};
  EXPECT_EQ(judge(printed("a\nb\n"), expected, false).verdict, Verdict::failed) << "one place is not two";
}

TEST(Expectations, WhatIsForbiddenFailsWhateverTheEnd) {
  Expectations expected;
  expected.exit.reset();
  expected.forbidden = {"^error"};
  EXPECT_EQ(judge(printed("error: sensor\n", 7), expected, false).verdict, Verdict::failed);
  EXPECT_EQ(judge(printed("no error\n", 7), expected, false).verdict, Verdict::passed);
}

TEST(Expectations, TimeBelowTheLeast) {
  Expectations expected;
  expected.at_least = 2;
  EXPECT_EQ(judge(printed(""), expected, false).verdict, Verdict::failed);
  expected.at_least = 0.5;
  EXPECT_EQ(judge(printed(""), expected, false).verdict, Verdict::passed);
}

TEST(Expectations, OutputThatIsNotWholeIsNotJudged) {
  Expectations expected;
  expected.absent = {"crack"};
  auto seen = printed("fine");
  seen.ended.truncated = true;
  EXPECT_EQ(judge(seen, expected, false).verdict, Verdict::failed);
}

TEST(Expectations, BytesThatAreNoTextDoNoHarm) {
  Expectations expected;
  expected.output = {"peak"};
  EXPECT_EQ(judge(printed("\xff\xfe\x80 peak \xc3"), expected, false).verdict, Verdict::passed);
}

TEST(ErrorLines, AreThoseThatLookLikeErrors) {
  const std::string output =
      "firing\nerror: sensor 3 is off\n0 errors\nno errors found\nERROR 7\nfailed: 0\ncannot open the door\nterror\n";
  EXPECT_EQ(lines_like_errors(output, {}),
            (std::vector<std::string>{"error: sensor 3 is off", "ERROR 7", "cannot open the door"}));
  EXPECT_EQ(lines_like_errors(output, {"sensor", "^ERROR", "door$"}), std::vector<std::string>{});
}

TEST(ErrorLines, AreNotMoreThanAsked) {
  std::string output;
  for (int i = 0; i < 100; ++i) output += "error\n";
  EXPECT_EQ(lines_like_errors(output, {}, 5).size(), 5U);
}

}  // namespace
}  // namespace coctilis::smoke
