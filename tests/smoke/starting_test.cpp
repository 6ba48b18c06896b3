// What a program says that ends with a failing code when it is asked for its version.
#include "smoke/starting.h"

#include "support.h"

namespace coctilis::smoke {
namespace {

using Kind = Answer::Kind;

struct Said {
  const char* name;
  const char* output;
  Kind kind;
};

class Starting : public testing::TestWithParam<Said> {};

TEST_P(Starting, IsJudgedByItsWords) {
  EXPECT_EQ(answer_of(GetParam().output, "--version").kind, GetParam().kind) << GetParam().output;
}

INSTANTIATE_TEST_SUITE_P(
    All, Starting,
    testing::Values(Said{"Usage", "usage: fire [-c CONE]\n", Kind::usage},
                    Said{"UsageBehindAName", "fire: Usage: fire FILE\n", Kind::usage},
                    Said{"PointsToHelp", "fire: try 'fire -h' for more\n", Kind::usage},
                    Said{"UnknownOption", "fire: unrecognized option\n", Kind::word},
                    Said{"TheWordIsAFile", "fire: cannot open --version: No such file or directory\n", Kind::word},
                    Said{"LacksAWord", "Error: missing file operand\n", Kind::word},
                    Said{"NoInput", "fatal: no input specified\n", Kind::word},
                    Said{"WantsAnOption", "Can't find asked option -in\n", Kind::word},
                    Said{"ListsItsOptions",
                         "fire fails without a curve\n -c  cone\n -k  kiln\n  where it stands\n -v\n", Kind::usage},
                    Said{"AFewLinesWithDashes", "cannot read:\n- firing.conf\n- kiln.conf\n- x.conf\n", Kind::error},
                    Said{"NoSuchFile", "firing.conf: No such file or directory\n", Kind::error},
                    Said{"Cannot", "reading the curve\nfire: cannot read the curve\n", Kind::error},
                    Said{"Trace", "Traceback (most recent call last):\n", Kind::error},
                    Said{"Symbol", "fire: symbol lookup error: undefined symbol: heat\n", Kind::error},
                    Said{"Something", "cone 6 bends at 1222\n", Kind::other}, Said{"Nothing", " \n", Kind::nothing},
                    Said{"Terrors", "the terrorised kiln\n", Kind::other}),
    [](const auto& one) { return one.param.name; });

TEST(StartingError, HasItsLineAndItsFile) {
  EXPECT_EQ(answer_of("kiln 3\nfire: cannot open /yard/firing.conf: not there\nbye\n", "--help").line,
            "fire: cannot open /yard/firing.conf: not there");
  EXPECT_EQ(absent_file_in("fire: cannot open '/yard/firing.conf'"), "/yard/firing.conf");
  EXPECT_EQ(absent_file_in("fire: cannot open /etc/passwd: denied"), "");
  EXPECT_EQ(absent_file_in("fire: cannot open firing.conf"), "");
}

}  // namespace
}  // namespace coctilis::smoke
