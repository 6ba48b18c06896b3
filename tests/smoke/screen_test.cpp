// Tasks at a display: keys by name, words of a call, and what comes back.
#include "smoke/screen.h"

#include "smoke/harmless.h"
#include "smoke/patterns.h"
#include "support.h"

namespace coctilis::smoke {
namespace {

TEST(Keys, HaveNames) {
  for (const char* name :
       {"a", "A", "7", "Return", "return", "F12", "ctrl+q", "Ctrl+Shift+Left", "alt+F4", "plus", "?"})
    EXPECT_TRUE(is_key(name)) << name;
  for (const char* name : {"", "Oven", "hot+a", "ctrl+", "F13", "ctrl+Oven", " "}) EXPECT_FALSE(is_key(name)) << name;
}

Ended printed_by_helper(const std::string& output) {
  Ended out;
  out.how = Ended::How::exited;
  out.output = output;
  return out;
}

TEST(Screen, ADisplayThatIsNotThere) {
  ScreenTask task;
  task.display = ":987";
  task.within = 0;
  EXPECT_EQ(look_at_screen(task).error, "the display cannot be reached");
  const auto words = words_of(task);
  ASSERT_EQ(words.size(), 2U);
  EXPECT_EQ(words[0], "look-at-screen");
  const auto report = screen_report_to_words({words[1]});
  ASSERT_TRUE(report);
  EXPECT_EQ(screen_report_in(printed_by_helper(*report)).error, "the display cannot be reached");
}

TEST(Screen, OtherWordsAreNone) {
  for (const char* word : {"", "{", "{}", "[]", "{\"display\": 7}"})
    EXPECT_FALSE(screen_report_to_words({word})) << word;
  EXPECT_FALSE(screen_report_to_words({}));
  EXPECT_NE(screen_report_in(printed_by_helper("it broke")).error.find("it broke"), std::string::npos);
}

TEST(HarmlessLines, AreKnownOthersAreNot) {
  const auto is_known = [](const std::string& line) { return !first_found(harmless_lines(), line).empty(); };
  EXPECT_TRUE(is_known("libEGL warning: DRI2: failed to authenticate"));
  EXPECT_TRUE(is_known("ALSA lib confmisc.c:855:(parse_card) cannot find card '0'"));
  EXPECT_FALSE(is_known("error: the kiln is cold"));
  EXPECT_FALSE(is_known("cannot open firing.conf"));
}

TEST(LinePatterns, AreOfLinesAndReadOnce) {
  EXPECT_TRUE(is_found("^b$", "a\nb\n"));
  EXPECT_TRUE(is_found("a\\s+b", "a\n  b\n")) << "one may go over several lines";
  EXPECT_FALSE(is_found("(", "(")) << "one that cannot be read is found nowhere";
  EXPECT_EQ(&line_pattern("x"), &line_pattern("x"));
}

TEST(LinePatterns, TheLineOfTheFirstIsTold) {
  EXPECT_EQ(first_found({"none", "cold"}, "hot\nkiln is cold\n"), "kiln is cold");
  EXPECT_EQ(first_found({"hot\\s+kiln"}, "hot\nkiln is cold\n"), "'hot\\s+kiln'");
  EXPECT_EQ(first_found({"none"}, "hot\n"), "");
  EXPECT_EQ(first_found({}, "hot\n"), "");
}

}  // namespace
}  // namespace coctilis::smoke
