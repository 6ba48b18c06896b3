// What is told in sentences and lines.
#include "report/sentences.h"

#include "base/text.h"
#include "support.h"

namespace coctilis::report {
namespace {

std::string numbered(int from, int to) {
  std::string out;
  for (int i = from; i <= to; ++i) out += "line " + std::to_string(i) + "\n";
  return out;
}

TEST(TellingLines, AShortOutputIsShownWhole) {
  EXPECT_EQ(telling_lines("a\nb\n\n \n"), (std::vector<std::string>{"a", "b"}));
  EXPECT_TRUE(telling_lines("").empty());
}

TEST(TellingLines, TheEndOfALongOneThatTellsOfNoFailure) {
  const auto lines = telling_lines(numbered(1, 100) + "0 failed\n");
  ASSERT_EQ(lines.size(), 20U);
  EXPECT_EQ(lines.front(), "line 82");
  EXPECT_EQ(lines.back(), "0 failed");
}

TEST(TellingLines, WhereItFirstTellsOfAFailureAndItsEnd) {
  const auto lines = telling_lines(numbered(1, 50) + "no errors yet\nFiring failed: cone 6\n" + numbered(53, 100));
  ASSERT_EQ(lines.size(), 20U);
  EXPECT_EQ(lines.front(), "Firing failed: cone 6");
  EXPECT_EQ(lines[7], "line 59");
  EXPECT_EQ(lines[8], "(30 lines between)");
  EXPECT_EQ(lines[9], "line 90");
  EXPECT_EQ(lines.back(), "line 100");
}

TEST(OutputSentences, WhatSeveralSayAlikeIsToldOnce) {
  model::Run run;
  for (const char* name : {"clay is used", "glaze is used", "kiln"}) {
    model::Check check;
    check.name = name;
    check.kind = name == std::string("kiln") ? model::CheckKind::smoke : model::CheckKind::library;
    check.error_lines = {"cone.h cannot be included by itself"};
    run.checks.push_back(std::move(check));
  }
  run.checks[1].error_lines.emplace_back("it is not said what it wants");
  EXPECT_EQ(output_sentences(run),
            (std::vector<std::string>{"clay is used, glaze is used passed, but: cone.h cannot be included by itself",
                                      "glaze is used passed, but: it is not said what it wants",
                                      "kiln passed, and prints: cone.h cannot be included by itself"}));
}

TEST(TellingLines, NothingIsShownTwice) {
  // The failure stands just before the end.
  const auto lines = telling_lines(numbered(1, 10) + "AssertionError: cone 6\n" + numbered(12, 31));
  EXPECT_EQ(lines.front(), "AssertionError: cone 6");
  EXPECT_EQ(text::join({lines.begin() + 7, lines.begin() + 10}, "; "), "line 18; (2 lines between); line 21");
  EXPECT_EQ(lines.back(), "line 31");
}

TEST(TellingLines, WhatWouldActOnATerminalIsShown) {
  EXPECT_EQ(telling_lines("a\x1b[2J\n").front().find('\x1b'), std::string::npos);
}

}  // namespace
}  // namespace coctilis::report
