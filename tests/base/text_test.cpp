#include "base/text.h"

#include <gtest/gtest.h>

namespace coctilis::text {
namespace {

using Words = std::vector<std::string>;

TEST(Text, ShellWordsFollowTheQuotingRules) {
  EXPECT_EQ(shell_words("  -O2 -g "), (Words{"-O2", "-g"}));
  EXPECT_EQ(shell_words("-DNAME='red brick' x"), (Words{"-DNAME=red brick", "x"}));
  EXPECT_EQ(shell_words(R"("a \"b\" $" c\ d)"), (Words{"a \"b\" $", "c d"}));
  EXPECT_EQ(shell_words("''"), (Words{""}));
  EXPECT_TRUE(shell_words("   ").empty());
}

TEST(Text, QuotedWordsComeBackUnchanged) {
  for (const std::string word : {"plain", "two words", "it's", "$HOME `x`", "", "a\"b\\c", "line\nend", "*?[]"}) {
    EXPECT_EQ(shell_words(shell_quote(word)), Words{word}) << word;
  }
  EXPECT_EQ(shell_words(shell_join({"a b", "c'd", ""})), (Words{"a b", "c'd", ""}));
}

TEST(Text, PrintableTakesAwayWhatControlsATerminal) {
  EXPECT_EQ(printable("red\x1b[2J\x1b]0;title\x07 brick"), "red brick");
  EXPECT_EQ(printable("a\x1b[31mb\x1b[0m"), "ab");
  EXPECT_EQ(printable("tile\x08\x08\x7f"), "tile");
  EXPECT_EQ(printable("\xC2\x9B"
                      "31m"),
            "31m");  // the one-character form of an escape sequence
  EXPECT_EQ(printable("a\xE2\x80\xAE"
                      "b"),
            "ab");  // letters from right to left
  EXPECT_EQ(printable("\xff brick"), "\xEF\xBF\xBD brick");
  EXPECT_EQ(printable("one\r\ntwo\tthree"), "one\ntwo\tthree");
}

TEST(Text, PrintableKeepsColoursWhereAsked) {
  EXPECT_EQ(printable("\x1b[31mred\x1b[2J", Colour::keep), "\x1b[31mred\x1b[0m");
  EXPECT_EQ(printable("\x1b[01;35mwarning\x1b[m", Colour::keep), "\x1b[1;35mwarning\x1b[0m\x1b[0m");
  // Nothing that hides: no conceal, no ground, and no colour that a ground may have.
  for (const char* hides : {"\x1b[8mx", "\x1b[30mx", "\x1b[41mx", "\x1b[38;2;0;0;0mx", "\x1b[38;5;0mx", "\x1b[7mx"})
    EXPECT_EQ(printable(hides, Colour::keep), "x");
  EXPECT_EQ(printable("\x1b[1;8;31mx", Colour::keep), "\x1b[1;31mx\x1b[0m");
}

TEST(Text, ClipCountsColumnsNotBytes) {
  EXPECT_EQ(columns("Öfen"), 4U);
  EXPECT_EQ(columns("窯と土"), 6U);
  EXPECT_EQ(columns("o\u0308fen"), 4U);  // a mark on the letter before
  EXPECT_EQ(columns("\xff\xfe"), 2U);    // no letters at all
  EXPECT_EQ(clip("窯と土", 5), "窯と…");
  EXPECT_EQ(columns(clip("窯と土の歴史", 6)), 5U);
  EXPECT_EQ(clip("Öfen", 4), "Öfen");
  EXPECT_EQ(columns(clip("clay, glaze and fire", 8)), 8U);
}

TEST(Text, VersionsAreComparedPieceByPiece) {
  EXPECT_EQ(compare_versions("1.2", "1.2.0"), 0);
  EXPECT_LT(compare_versions("1.9", "1.10"), 0);
  EXPECT_GT(compare_versions("2.0", "1.99.99"), 0);
  EXPECT_LT(compare_versions("1.2.rc1", "1.2.0"), 0);
  EXPECT_EQ(compare_versions("007", "7"), 0);
  EXPECT_LT(compare_versions("99999999999999999998", "99999999999999999999"), 0);
}

TEST(Text, ConstraintsNeedAllOfTheirParts) {
  EXPECT_TRUE(version_meets("2.4", ">= 2.1, < 3"));
  EXPECT_FALSE(version_meets("3.0", ">= 2.1, < 3"));
  EXPECT_TRUE(version_meets("2.1", "2.1"));
  EXPECT_FALSE(version_meets("2.0", "2.1"));
  EXPECT_TRUE(version_meets("4", "= 4"));
  EXPECT_FALSE(version_meets("4", "!= 4"));
  EXPECT_TRUE(version_meets("", ""));
  EXPECT_FALSE(version_meets("", ">= 1"));
  EXPECT_FALSE(version_meets("1", "?? 1"));
}

TEST(Text, HtmlIsEscaped) { EXPECT_EQ(html("<a href='x'>&\"\x1b[1m"), "&lt;a href=&#39;x&#39;&gt;&amp;&quot;"); }

TEST(Text, NumbersForPeople) {
  EXPECT_EQ(grouped(1234567), "1,234,567");
  EXPECT_EQ(grouped(12), "12");
  EXPECT_EQ(count(1, "brick"), "1 brick");
  EXPECT_EQ(count(2, "library", "libraries"), "2 libraries");
  EXPECT_EQ(duration(0.04), "40 ms");
  EXPECT_EQ(duration(61), "1 min 01 s");
  EXPECT_EQ(size(3200), "3.2 kB");
}

TEST(Text, EditDistanceFindsWhatWasMeant) {
  EXPECT_EQ(edit_distance("kiln", "kiln"), 0U);
  EXPECT_EQ(edit_distance("add_executble", "add_executable"), 1U);
  EXPECT_EQ(edit_distance("", "clay"), 4U);
}

}  // namespace
TEST(Text, TimesInAForm) {
  EXPECT_EQ(time_in_form(0, "%Y-%m-%dT%H:%M:%SZ", true), "1970-01-01T00:00:00Z");
  EXPECT_EQ(time_in_form(86399, "%H%% %j", true), "23% 001");
  EXPECT_EQ(time_in_form(0, "", true), "");
}

TEST(Text, VariablesThatAShellWouldTake) {
  EXPECT_EQ(variables_in("fire --cone $CONE ${GLAZE} $$ $5 100$"), (std::set<std::string>{"5", "CONE", "GLAZE"}));
  EXPECT_TRUE(variables_in("clay").empty());
}

}  // namespace coctilis::text
