// What failed checks say of themselves.
#include "smoke/excuses.h"

#include <gtest/gtest.h>
#include <unistd.h>

#include <cstdlib>

namespace coctilis::smoke {
namespace {

class WithoutDisplay : public testing::Test {
 protected:
  void SetUp() override {
    ::unsetenv("DISPLAY");
    ::unsetenv("WAYLAND_DISPLAY");
  }
};

TEST_F(WithoutDisplay, WordsOfProgramsThatDraw) {
  for (const char* words :
       {"Error: cannot open display: ", "press: unable to open X display", "could not connect to display",
        "Failed to open the X11 display", "Can't open display :0", "no display name and no $DISPLAY"})
    EXPECT_EQ(excuse_in(std::string("press 1.2\n") + words + "\n"), "it wants a display, and there is none") << words;
  for (const char* words : {"the display of the kiln is dark", "cannot open displays.txt", "opened display 3"})
    EXPECT_EQ(excuse_in(words), "") << words;
  ::setenv("DISPLAY", ":7", 1);
  EXPECT_EQ(excuse_in("cannot open display: "), "");
  ::unsetenv("DISPLAY");
}

TEST(Excuses, WordsOfThoseThatRefuseTheSuperuser) {
  const std::string reason = ::geteuid() == 0 ? "it says that it does not run for the superuser" : "";
  for (const char* words :
       {"The kiln test suite cannot be run as root.", "Do not run this as root", "refusing to run as root",
        "You must not run the press tests as the superuser!", "should not be run as root"})
    EXPECT_EQ(excuse_in(words), reason) << words;
  for (const char* words : {"cannot run the press", "the root of the tree cannot be read", "runs as root: no"})
    EXPECT_EQ(excuse_in(words), "") << words;
}

TEST(Excuses, TheNetworkThatNobodyGets) {
  EXPECT_EQ(excuse_in("Exception in thread \"main\" java.net.UnknownHostException: yard.example\n"),
            "it wants to reach the network, which commands of a tree do not get");
}

TEST(Excuses, ProgramsThatAShellDoesNotFind) {
  for (const char* words : {"/bin/sh: 1: no-such-glazer: not found", "sh: line 3: no-such-glazer: command not found",
                            "before\nbash: no-such-glazer: command not found\nafter"})
    EXPECT_EQ(excuse_in(words), "it needs the program 'no-such-glazer', which is not installed") << words;
  // One that is there is no excuse, and a file of the test is none either.
  EXPECT_EQ(excuse_in("/bin/sh: 1: ls: not found"), "");
  EXPECT_EQ(excuse_in("brick 7: not found"), "");
  EXPECT_EQ(excuse_in(""), "");
}

}  // namespace
}  // namespace coctilis::smoke
