// What configure scripts print.
#include "describe/configure/reader.h"
#include "support.h"

namespace coctilis::test {
namespace {

using namespace describe::configure;  // NOLINT: this file is about it

TEST(ConfigureOutput, Checks) {
  const auto checks = checks_in(
      "checking for gcc... gcc\nchecking whether we are cross compiling... no\nchecking for zlib.h... (cached) yes\n"
      "nothing\nchecking for inflate in -lz... checking for stdio.h... yes\n");
  ASSERT_EQ(checks.size(), 4U);
  EXPECT_EQ(checks[0].name, "gcc");
  EXPECT_EQ(checks[1].name, "we are cross compiling");
  EXPECT_EQ(checks[1].answer, "no");
  EXPECT_EQ(checks[2].answer, "yes");
  EXPECT_EQ(checks[3].answer, "yes");
}

TEST(ConfigureOutput, Options) {
  const auto options = options_in(
      "Optional Features:\n  --disable-option-checking  ignore unrecognized\n  --disable-FEATURE       do not\n"
      "  --disable-glaze         leave glazes out\n  --enable-kiln[=NAME]    which kiln\n                          to "
      "fire\n"
      "  --with-clay=DIR         where clay is\n\nSome influential environment variables:\n  CC          C compiler "
      "command\n");
  ASSERT_EQ(options.size(), 4U);
  EXPECT_EQ(options[0].name, "enable-glaze");
  EXPECT_EQ(options[0].initial, "yes");
  EXPECT_EQ(options[1].help, "which kiln to fire");
  EXPECT_EQ(options[1].type, "text");
  EXPECT_EQ(options[2].name, "with-clay");
  EXPECT_EQ(options[3].name, "CC");
}

TEST(ConfigureOutput, TheLastFailure) {
  const std::string said = last_failure_in(
      "configure:1: checking for a.h\nconfigure:2: result: yes\nconfigure:3: checking for claykit.h\n"
      "conftest.c:9:10: fatal error: claykit.h: No such file or directory\nconfigure: failed program was:\n"
      "| /* confdefs.h */\n| #define X 1\n| #include <claykit.h>\nconfigure:4: result: no\n");
  EXPECT_NE(said.find("checking for claykit.h"), std::string::npos);
  EXPECT_NE(said.find("fatal error: claykit.h"), std::string::npos);
  EXPECT_NE(said.find("| #include <claykit.h>"), std::string::npos);
  EXPECT_EQ(said.find("#define X"), std::string::npos);
  EXPECT_EQ(last_failure_in("nothing\n"), "");
}

}  // namespace
}  // namespace coctilis::test
