#include "describe/listfile/language.h"

#include <gtest/gtest.h>

#include <stdexcept>

#include "base/lists.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile {
namespace {

using Words = std::vector<std::string>;

std::vector<Argument> arguments(const std::string& text) {
  return parse("f(" + text + ")", "list")->body.at(0).call.arguments;
}

TEST(Language, KindsOfArguments) {
  const auto list = arguments("plain \"two words\" [[raw ${x}]] a\\ b -Da=\"b c\"");
  ASSERT_EQ(list.size(), 5U);
  EXPECT_EQ(list[0].kind, Argument::Kind::unquoted);
  EXPECT_EQ(list[1].text, "two words");
  EXPECT_EQ(list[2].kind, Argument::Kind::bracket);
  EXPECT_EQ(list[2].text, "raw ${x}");
  EXPECT_EQ(list[3].text, "a\\ b");
  EXPECT_EQ(list[4].text, "-Da=\"b c\"");
}

TEST(Language, BracketsNestByTheirEqualSigns) {
  EXPECT_EQ(arguments("[=[a]]b]=]").at(0).text, "a]]b");
  EXPECT_EQ(arguments("[[\nfirst line end goes]]").at(0).text, "first line end goes");
}

TEST(Language, CommentsAreLeftOut) {
  const auto file = parse("# one\nf(a #[[ inner ]] b # rest\n c)\n#[==[ many\nlines ]==] g()\n", "list");
  ASSERT_EQ(file->body.size(), 2U);
  EXPECT_EQ(file->body[0].call.arguments.size(), 3U);
  EXPECT_EQ(file->body[1].call.line, 5);
}

TEST(Language, ParenthesesInArgumentsStay) { EXPECT_EQ(arguments("(a AND (b))").size(), 7U); }

TEST(Language, QuotedTextGoesOnAfterABackslash) { EXPECT_EQ(arguments("\"a\\\nb\"").at(0).text, "ab"); }

TEST(Language, BlocksAreTrees) {
  const auto file =
      parse("if(A)\n f()\nelseif(B)\n g()\nelse()\n h()\nendif()\nforeach(x)\n while(y)\n endwhile()\nendforeach()\n",
            "list");
  ASSERT_EQ(file->body.size(), 2U);
  EXPECT_EQ(file->body[0].branches.size(), 2U);
  EXPECT_EQ(file->body[1].body.at(0).call.name, "while");
}

struct Broken {
  const char* text;
  int line;
  const char* says;
};
class BrokenText : public testing::TestWithParam<Broken> {};

TEST_P(BrokenText, IsAnErrorWithItsPlace) {
  try {
    (void)parse(GetParam().text, "CMakeLists.txt");
    FAIL() << GetParam().text;
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::description);
    EXPECT_EQ(fault.problem().place.line, GetParam().line) << fault.problem().what;
    EXPECT_NE(fault.problem().what.find(GetParam().says), std::string::npos) << fault.problem().what;
  }
}

INSTANTIATE_TEST_SUITE_P(All, BrokenText,
                         testing::Values(Broken{"f(a\n\n", 1, "never closed"}, Broken{"\nf a)", 2, "'(' is missing"},
                                         Broken{"f(\"a\n)", 1, "opened with '\"'"}, Broken{"f([[a)", 1, "bracket"},
                                         Broken{"\n)\n", 2, "where a command was expected"},
                                         Broken{"if(A)\nf()\n", 1, "never closed with endif"},
                                         Broken{"endif()", 1, "closes nothing"},
                                         Broken{"if(A)\nforeach(x)\nendif()\n", 3, "endforeach was expected"},
                                         Broken{"f($(X", 1, "without ')'"}));

TEST(Lists, ElementsAreDividedOutsideBrackets) {
  EXPECT_EQ(list_elements("a;b;;c"), (Words{"a", "b", "", "c"}));
  EXPECT_EQ(list_elements("a;;c", false), (Words{"a", "c"}));
  EXPECT_EQ(list_elements("a\\;b;c"), (Words{"a;b", "c"}));
  EXPECT_EQ(list_elements("[a;b];c"), (Words{"[a;b]", "c"}));
  EXPECT_TRUE(list_elements("").empty());
}

TEST(Lists, Truth) {
  for (const char* word : {"1", "on", "YES", "True", "y", "2", "-1"}) EXPECT_TRUE(is_true(word)) << word;
  for (const char* word : {"0", "off", "NO", "false", "n", "", "IGNORE", "NOTFOUND", "KILN-NOTFOUND"})
    EXPECT_TRUE(is_false(word)) << word;
  EXPECT_FALSE(is_true("brick"));
  EXPECT_FALSE(is_false("brick"));
}

TEST(Regex, Dialect) {
  EXPECT_TRUE(Regex("^a{2}$").matches("a{2}"));  // braces are letters
  EXPECT_TRUE(Regex("[\\]").matches("\\"));      // a backslash in brackets is one
  EXPECT_TRUE(Regex("[]x]").matches("]"));
  EXPECT_TRUE(Regex("a.c").matches("a\nc"));
  EXPECT_FALSE(Regex("a\\.c").matches("abc"));
  Regex::Match match;
  ASSERT_TRUE(Regex("([a-z]+)-([0-9]+)").search("kiln-12", 0, match));
  EXPECT_EQ(match.groups, (Words{"kiln-12", "kiln", "12"}));
}

TEST(Regex, ReplacesWithGroups) {
  EXPECT_EQ(regex_replace(Regex("([a-z])([0-9])"), "\\2\\1", "a1b2 c3"), "1a2b 3c");
  EXPECT_EQ(regex_replace(Regex("x"), "\\\\", "axb"), "a\\b");
  EXPECT_THROW((void)regex_replace(Regex("x*"), "y", "ab"), std::invalid_argument);
  EXPECT_THROW(Regex("(a"), std::invalid_argument);
  EXPECT_THROW(Regex("[a"), std::invalid_argument);
}

}  // namespace
}  // namespace coctilis::describe::listfile
