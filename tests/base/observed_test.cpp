// What was looked at is noticed when it is another, and only then.
#include "base/observed.h"

#include <sys/stat.h>
#include <unistd.h>

#include "base/answers.h"
#include "base/hash.h"
#include "support.h"

namespace coctilis::test {
namespace {

class ObservedTest : public testing::Test {
 protected:
  // Does something with the tree while it is observed, and settles.
  template <class F>
  bool watch(F&& work) {
    {
      const Observation observation(seen_);
      work();
    }
    return seen_.settle();
  }
  [[nodiscard]] bool holds() const { return seen_.difference().empty(); }
  [[nodiscard]] std::string path(const std::string& below) const { return tree_.path(below); }

  TreeFolder tree_;
  Observed seen_;
};

TEST_F(ObservedTest, ContentIsNoticed) {
  tree_.write("clay", "red");
  ASSERT_TRUE(watch([&] { EXPECT_EQ(files::read(path("clay")), "red"); }));
  EXPECT_EQ(seen_.difference(), "");
  tree_.write("other", "");
  EXPECT_TRUE(holds());
  tree_.write("clay", "grey");
  EXPECT_EQ(seen_.difference(), path("clay") + " is another");
  std::filesystem::remove(path("clay"));
  EXPECT_EQ(seen_.difference(), path("clay") + " is gone");
}

TEST_F(ObservedTest, EveryWayToReadCounts) {
  tree_.write("a", "1");
  tree_.write("b", "2");
  ASSERT_TRUE(watch([&] {
    EXPECT_EQ(files::read_beginning(path("a"), 1), "1");
    EXPECT_TRUE(hash_file(path("b")).has_value());
  }));
  EXPECT_TRUE(holds());
  ::chmod(path("a").c_str(), 0600);
  EXPECT_EQ(seen_.difference(), path("a") + " is another");
}

TEST_F(ObservedTest, OfPresenceTheContentDoesNotCount) {
  tree_.write("clay", "red");
  ASSERT_TRUE(watch([&] {
    EXPECT_TRUE(files::is_file(path("clay")));
    EXPECT_FALSE(files::exists(path("glaze")));
    EXPECT_FALSE(files::is_program(path("fire")));
  }));
  tree_.write("clay", "grey");
  EXPECT_TRUE(holds());
  tree_.write("glaze", "");
  EXPECT_EQ(seen_.difference(), path("glaze") + " is there now");
  std::filesystem::remove(path("glaze"));
  ::chmod(path("clay").c_str(), 0755);
  EXPECT_FALSE(holds());
  ::chmod(path("clay").c_str(), 0644);
  std::filesystem::remove(path("clay"));
  std::filesystem::create_directory(path("clay"));
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, WhoOnlyAsksForAFolderDoesNotMindAFile) {
  // As where a file is to be written: into it, if it is a folder.
  ASSERT_TRUE(watch([&] {
    if (!files::is_folder(path("out"))) files::write(path("out"), "1");
    EXPECT_FALSE(files::is_folder(path("none")));
  }));
  EXPECT_TRUE(holds());
  std::filesystem::create_directory(path("none"));
  EXPECT_EQ(seen_.difference(), path("none") + " is a folder now");
}

TEST_F(ObservedTest, OfAFolderTheNamesCount) {
  tree_.write("yard/a", "");
  ASSERT_TRUE(watch([&] { EXPECT_EQ(files::names_in(path("yard")), std::vector<std::string>{"a"}); }));
  tree_.write("yard/a", "another text, written to a new file of the same name");
  EXPECT_TRUE(holds());  // its time is another, what lies in it is not
  tree_.write("yard/b", "");
  EXPECT_EQ(seen_.difference(), "what lies in " + path("yard") + " is another");
  std::filesystem::remove(path("yard/b"));
  EXPECT_TRUE(holds());
  std::filesystem::rename(path("yard"), path("moved"));
  EXPECT_EQ(seen_.difference(), path("yard") + " is gone");
}

TEST_F(ObservedTest, ALinkCountsByWhereItLeads) {
  tree_.write("a", "");
  std::filesystem::create_symlink("a", path("link"));
  ASSERT_TRUE(watch([&] { EXPECT_TRUE(files::is_link(path("link"))); }));
  EXPECT_TRUE(holds());
  std::filesystem::remove(path("link"));
  std::filesystem::create_symlink("b", path("link"));
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, WhatIsWrittenCountsAsItEndsUp) {
  ASSERT_TRUE(watch([&] {
    files::write(path("out"), "1");
    files::write(path("out"), "2");
    EXPECT_FALSE(files::write_if_different(path("out"), "2"));
  }));
  EXPECT_TRUE(holds());
  files::write(path("out"), "3");
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, WhatWasAskedForBeforeItIsWrittenDoesNotSettle) {
  EXPECT_FALSE(watch([&] {
    if (!files::is_file(path("mark"))) files::write(path("mark"), "");
  }));
  EXPECT_NE(seen_.why_not().find("mark changed meanwhile"), std::string::npos) << seen_.why_not();
  // The next time it is there from the beginning.
  Observed again;
  {
    const Observation observation(again);
    EXPECT_TRUE(files::is_file(path("mark")));
  }
  EXPECT_TRUE(again.settle());
}

TEST_F(ObservedTest, WhatIsWrittenAndTakenAwayAgainIsNoNews) {
  ASSERT_TRUE(watch([&] {
    files::write(path("trial"), "1");
    EXPECT_TRUE(files::is_file(path("trial")));
    EXPECT_EQ(files::read(path("trial")), "1");
    observe::wrote(path("trial"));
    std::filesystem::remove(path("trial"));
    EXPECT_FALSE(files::exists(path("trial")));
  }));
  EXPECT_TRUE(holds());
  tree_.write("trial", "2");
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, WhatSomebodyElseChangesMeanwhileDoesNotSettle) {
  tree_.write("clay", "red");
  EXPECT_FALSE(watch([&] {
    static_cast<void>(files::read(path("clay")));
    const observe::Apart apart;
    files::write(path("clay"), "grey");
  }));
}

Command shell(const std::string& line) {
  Command command;
  command.argv = {"/bin/sh", "-c", line};
  command.merge_errors = false;
  return command;
}

TEST_F(ObservedTest, CommandsAreAskedAgain) {
  tree_.write("said", "one");
  const auto command = shell("cat " + path("said") + "; echo to nobody >&2");
  ASSERT_TRUE(watch([&] {
    EXPECT_EQ(observe::run(command).output, "one");
    EXPECT_EQ(observe::run(command).output, "one");
  }));
  EXPECT_TRUE(holds());
  tree_.write("said", "two");
  EXPECT_NE(seen_.difference().find("says something else"), std::string::npos);
  tree_.write("said", "one");
  EXPECT_TRUE(holds());
}

TEST_F(ObservedTest, ACommandCountsByHowItEndsAndByItsEnvironmentToo) {
  auto command = shell("test \"$CLAY\" = red && test ! -e " + path("stop"));
  command.environment["CLAY"] = "red";
  ASSERT_TRUE(watch([&] { EXPECT_TRUE(observe::run(command).good()); }));
  EXPECT_TRUE(holds());
  tree_.write("stop", "");
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, ACommandThatSaysSomethingElseEachTimeCannotBeKept) {
  const auto command = shell("echo x >>" + path("log") + "; cat " + path("log"));
  EXPECT_FALSE(watch([&] {
    static_cast<void>(observe::run(command));
    static_cast<void>(observe::run(command));
  }));
}

TEST_F(ObservedTest, AProcessStartedInAnyOtherWayCannotBeKept) {
  EXPECT_FALSE(watch([&] { EXPECT_TRUE(coctilis::run(shell("exit 0")).good()); }));
  EXPECT_NE(seen_.why_not().find("was run"), std::string::npos) << seen_.why_not();
}

TEST_F(ObservedTest, WhatIsDoneApartIsNotSeenButWhatKeptAnswersHangOnIs) {
  tree_.write("header.h", "1");
  Answers answers(path("answers"));
  ASSERT_TRUE(watch([&] {
    const observe::Apart apart;
    EXPECT_TRUE(coctilis::run(shell("exit 0")).good());
    EXPECT_FALSE(files::is_file(path("scratch")));
    answers.put("which?", "this", {{path("header.h"), false}});
  }));
  tree_.write("scratch", "");
  EXPECT_TRUE(holds());
  tree_.write("header.h", "22");
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, TheTimeCountsInTheFormInWhichItWasAskedFor) {
  ASSERT_TRUE(watch([&] { EXPECT_EQ(observe::clock("%Y %%", true).size(), 6U); }));
  EXPECT_TRUE(holds());
  Observed fine;
  fine.clock("%Y-%m-%d %H:%M:%S", true, "1999-12-31 23:59:59");
  EXPECT_EQ(fine.difference(), "the time is another");
}

TEST_F(ObservedTest, OneWithinAnotherSpoilsTheOuter) {
  tree_.write("clay", "red");
  Observed inner;
  EXPECT_FALSE(watch([&] {
    {
      const Observation observation(inner);
      static_cast<void>(files::read(path("clay")));
    }
    EXPECT_FALSE(files::is_file(path("glaze")));
  }));
  EXPECT_TRUE(inner.settle());
  EXPECT_EQ(inner.size(), 1U);
}

TEST_F(ObservedTest, WhatIsForgottenDoesNotCount) {
  {
    const Observation observation(seen_);
    EXPECT_FALSE(files::is_file(path("work/a")));
    EXPECT_FALSE(files::is_file(path("works")));
    files::write(path("work/b"), "");
  }
  seen_.forget_below(path("work"));
  ASSERT_TRUE(seen_.settle());
  tree_.write("work/a", "");
  tree_.write("work/b", "another");
  EXPECT_TRUE(holds());
  tree_.write("works", "");
  EXPECT_FALSE(holds());
}

TEST_F(ObservedTest, WhoDoesNotAskIsNotSeen) {
  tree_.write("clay", "red");
  ASSERT_TRUE(watch([&] {}));
  static_cast<void>(files::read(path("clay")));
  EXPECT_EQ(seen_.size(), 0U);
}

TEST_F(ObservedTest, RelativePathsAreThoseOfTheFolderOfThen) {
  tree_.write("clay", "red");
  ASSERT_TRUE(watch([&] {
    const auto before = std::filesystem::current_path();
    std::filesystem::current_path(path(""));
    static_cast<void>(files::read("clay"));
    std::filesystem::current_path(before);
  }));
  EXPECT_TRUE(holds());
  tree_.write("clay", "grey");
  EXPECT_FALSE(holds());
}

}  // namespace
}  // namespace coctilis::test
