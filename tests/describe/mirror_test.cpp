// The copy of a tree that builds inside itself: kept in step by content.
#include "describe/mirror.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "base/file_stamp.h"
#include "support.h"

namespace coctilis::test {
namespace {

using describe::Mirrored;

class MirrorTest : public testing::Test {
 protected:
  Mirrored bring() {
    const auto mirrored = describe::mirror(tree.path(), to);
    EXPECT_TRUE(mirrored.ok());
    return mirrored.ok() ? *mirrored : Mirrored{};
  }
  [[nodiscard]] std::string there(const std::string& name) const { return files::read(to + "/" + name).value_or("-"); }
  static std::int64_t time_of(const std::string& path) {
    struct stat info {};
    return ::stat(path.c_str(), &info) == 0 ? info.st_mtim.tv_sec * 1'000'000'000LL + info.st_mtim.tv_nsec : -1;
  }
  void set_time(const std::string& name, std::int64_t seconds) const {
    const struct timespec times[2] = {{seconds, 0}, {seconds, 0}};
    ASSERT_EQ(::utimensat(AT_FDCWD, tree.path(name).c_str(), times, 0), 0);
  }
  TreeFolder tree;
  const std::string to = tree.kiln() + "/work";
};

TEST_F(MirrorTest, HasWhatTheTreeHas) {
  tree.write("clay.c", "1");
  tree.write("parts/glaze.c", "2");
  ::chmod(tree.path("clay.c").c_str(), 0750);
  set_time("clay.c", 1'600'000'000);
  const auto first = bring();
  EXPECT_EQ(first.files, 2U);
  EXPECT_EQ(first.copied, 2U);
  EXPECT_EQ(there("parts/glaze.c"), "2");
  struct stat info {};
  ASSERT_EQ(::stat((to + "/clay.c").c_str(), &info), 0);
  EXPECT_EQ(info.st_mode & 0777U, 0750U);
  EXPECT_EQ(time_of(to + "/clay.c"), 1'600'000'000'000'000'000LL);
  EXPECT_EQ(describe::mirrored_files(to), (std::vector<std::string>{"clay.c", "parts/glaze.c"}));
}

TEST_F(MirrorTest, TakesOverWhatIsAnotherAndNothingElse) {
  tree.write("clay.c", "1");
  tree.write("glaze.c", "2");
  bring();
  files::write(to + "/glaze.c", "made by the build");
  files::write(to + "/clay.o", "made");
  const auto same = bring();
  EXPECT_EQ(same.copied, 0U);
  EXPECT_EQ(there("glaze.c"), "made by the build");  // the tree has nothing new to say of it
  tree.write("clay.c", "3");
  tree.write("fire.c", "4");
  const auto changed = bring();
  EXPECT_EQ(changed.copied, 2U);
  EXPECT_EQ(there("clay.c") + there("fire.c") + there("clay.o"), "34made");
  std::filesystem::remove(tree.path("fire.c"));
  EXPECT_EQ(bring().removed, 1U);
  EXPECT_EQ(there("fire.c"), "-");
}

TEST_F(MirrorTest, WhatIsOnlyTouchedKeepsItsTime) {
  tree.write("clay.c", "1");
  set_time("clay.c", 1'600'000'000);
  bring();
  set_time("clay.c", 1'700'000'000);
  EXPECT_EQ(bring().copied, 0U);
  EXPECT_EQ(time_of(to + "/clay.c"), 1'600'000'000'000'000'000LL);
}

TEST_F(MirrorTest, AChangeIsSeenWhateverItsSizeAndDate) {
  tree.write("clay.c", "1");
  set_time("clay.c", 1'600'000'000);
  bring();
  ::usleep(50000);
  bring();
  tree.write("clay.c", "2");
  set_time("clay.c", 1'600'000'000);
  EXPECT_EQ(bring().copied, 1U);
  EXPECT_EQ(there("clay.c"), "2");
  // What was made before is older than the change.
  EXPECT_GT(time_of(to + "/clay.c"), 1'700'000'000'000'000'000LL);
}

TEST_F(MirrorTest, WhatLiesInTheFutureDoesNotThere) {
  tree.write("clay.c", "1");
  set_time("clay.c", 4'000'000'000);
  bring();
  EXPECT_LT(time_of(to + "/clay.c"), 3'900'000'000'000'000'000LL);
}

TEST_F(MirrorTest, AnotherTreeInThePlaceOfTheFirstIsSeen) {
  tree.write("clay.c", "1");
  tree.write("glaze.c", "1");
  set_time("clay.c", 1'600'000'000);
  bring();
  ::usleep(50000);
  bring();
  std::filesystem::rename(tree.path(), tree.path() + ".old");
  std::filesystem::copy(tree.path() + ".old", tree.path(), std::filesystem::copy_options::recursive);
  tree.write("clay.c", "2");
  set_time("clay.c", 1'600'000'000);
  EXPECT_EQ(bring().copied, 1U);
  EXPECT_EQ(there("clay.c") + there("glaze.c"), "21");
}

TEST_F(MirrorTest, ModesFollow) {
  tree.write("tool.sh", "1");
  bring();
  ::chmod(tree.path("tool.sh").c_str(), 0755);
  EXPECT_EQ(bring().copied, 0U);
  struct stat info {};
  ASSERT_EQ(::stat((to + "/tool.sh").c_str(), &info), 0);
  EXPECT_EQ(info.st_mode & 0777U, 0755U);
}

TEST_F(MirrorTest, ACopyThatNobodyMayHaveChangedIsPutThereAnew) {
  tree.write("clay.c", "1");
  tree.write("glaze.c", "1");
  bring();
  files::write(to + "/clay.c", "by hand");
  files::write(to + "/glaze.c", "by a step");
  const auto made = [&](const std::string& path) { return path == to + "/glaze.c"; };
  ASSERT_TRUE(describe::mirror(tree.path(), to, made).ok());
  EXPECT_EQ(there("clay.c"), "1");
  EXPECT_EQ(there("glaze.c"), "by a step");
}

TEST_F(MirrorTest, FoldersThatAreGoneGo) {
  tree.write("parts/red/clay.c", "1");
  tree.write("parts/glaze.c", "1");
  bring();
  std::filesystem::remove_all(tree.path("parts/red"));
  bring();
  EXPECT_FALSE(files::exists(to + "/parts/red"));
  files::write(to + "/parts/glaze.o", "made");
  std::filesystem::remove_all(tree.path("parts"));
  bring();
  EXPECT_EQ(there("parts/glaze.o"), "made");
}

TEST_F(MirrorTest, WhatCannotBeReadIsNotThereAsItWas) {
  tree.write("clay.c", "1");
  bring();
  ASSERT_TRUE(obey_modes());
  ::chmod(tree.path("clay.c").c_str(), 0);
  bring();
  EXPECT_EQ(there("clay.c"), "-");
  EXPECT_TRUE(files::exists(to + "/clay.c"));
  ::chmod(tree.path("clay.c").c_str(), 0644);
  bring();
  EXPECT_EQ(there("clay.c"), "1");
}

TEST_F(MirrorTest, KnowsWhatWasGiven) {
  tree.write("clay.c", "1");
  bring();
  const auto before = file_clock();
  files::write(to + "/config.h", "configured");
  describe::Given::note_since(to, before);
  files::write(to + "/made.o", "made");
  {
    const describe::Given given(to);
    EXPECT_TRUE(given.contains(to + "/clay.c"));
    EXPECT_TRUE(given.contains(to + "/config.h"));
    EXPECT_FALSE(given.contains(to + "/made.o"));
    EXPECT_FALSE(given.contains(to + "/nowhere"));
    EXPECT_TRUE(given.changed().empty());
  }
  files::write(to + "/config.h", "by hand");
  files::write(to + "/clay.c", "by hand");
  const describe::Given given(to);
  EXPECT_FALSE(given.contains(to + "/clay.c"));
  EXPECT_FALSE(given.contains(to + "/config.h"));
  EXPECT_EQ(given.changed(), std::vector<std::string>{to + "/config.h"});
}

TEST_F(MirrorTest, LeavesOutWhatIsNoPartOfTheSources) {
  for (const char* name : {".git/HEAD", ".hg/store", ".svn/entries", "clay.c", "clay.o", "clay.lo", "prebuilt.o"})
    tree.write(name, "x");
  bring();
  EXPECT_EQ(describe::mirrored_files(to), (std::vector<std::string>{"clay.c", "prebuilt.o"}));
}

TEST_F(MirrorTest, AKilnInTheTreeIsNotCopiedIntoItself) {
  tree.write("clay.c", "1");
  const std::string inside = tree.path("kiln/label/work");
  ASSERT_TRUE(describe::mirror(tree.path(), inside).ok());
  const auto again = describe::mirror(tree.path(), inside);
  ASSERT_TRUE(again.ok());
  EXPECT_EQ(describe::mirrored_files(inside), std::vector<std::string>{"clay.c"});
}

TEST_F(MirrorTest, LinksLeadWhereTheyLed) {
  tree.write("parts/clay.h", "clay");
  files::write(tree.scratch() + "/outside.h", "outside");
  std::filesystem::create_symlink("parts/clay.h", tree.path("near.h"));
  std::filesystem::create_symlink(tree.path("parts/clay.h"), tree.path("whole.h"));
  std::filesystem::create_symlink("../outside.h", tree.path("beyond.h"));
  std::filesystem::create_symlink("nowhere", tree.path("dangling.h"));
  bring();
  EXPECT_EQ(std::filesystem::read_symlink(to + "/near.h").string(), "parts/clay.h");
  EXPECT_EQ(std::filesystem::read_symlink(to + "/whole.h").string(), to + "/parts/clay.h");
  EXPECT_EQ(there("beyond.h"), "outside");
  EXPECT_TRUE(files::is_link(to + "/dangling.h"));
  // A file takes the place of a link, and the other way round.
  std::filesystem::remove(tree.path("near.h"));
  tree.write("near.h", "file");
  std::filesystem::remove(tree.path("parts/clay.h"));
  std::filesystem::create_symlink("../near.h", tree.path("parts/clay.h"));
  bring();
  EXPECT_FALSE(files::is_link(to + "/near.h"));
  EXPECT_EQ(there("parts/clay.h"), "file");
}

TEST_F(MirrorTest, AFolderTakesThePlaceOfAFile) {
  tree.write("clay", "file");
  bring();
  std::filesystem::remove(tree.path("clay"));
  tree.write("clay/red.c", "1");
  bring();
  EXPECT_EQ(there("clay/red.c"), "1");
}

TEST_F(MirrorTest, WhatReleasesShipReadyMadeIsNewer) {
  for (const char* name :
       {"configure.ac", "configure", "aclocal.m4", "Makefile.am", "Makefile.in", "clay/makefile.am", "clay/makefile.in",
        "parse.y", "parse.c", "press.texi", "press.info", "press.html", "press.1", "other.c", "stamp-h1"})
    tree.write(name, name);
  // As unpacking and patching may leave them.
  for (const char* name : {"configure", "aclocal.m4", "Makefile.in", "parse.c", "press.info", "press.1"})
    set_time(name, 1'500'000'000);
  bring();
  const auto time = [&](const char* name) { return time_of(to + "/" + name); };
  EXPECT_GT(time("aclocal.m4"), time("configure.ac"));
  EXPECT_GT(time("configure"), time("aclocal.m4"));
  EXPECT_GT(time("Makefile.in"), time("Makefile.am"));
  EXPECT_GT(time("Makefile.in"), time("aclocal.m4"));
  EXPECT_GT(time("clay/makefile.in"), time("aclocal.m4"));
  EXPECT_GT(time("parse.c"), time("parse.y"));
  EXPECT_GT(time("press.info"), time("press.texi"));
  EXPECT_GT(time("press.html"), time("press.texi"));
  EXPECT_EQ(time("other.c"), time_of(tree.path("other.c")));
  // Later changes of what they are made from count.
  tree.write("configure.ac", "another");
  bring();
  EXPECT_GT(time("configure.ac"), 0);
}

TEST_F(MirrorTest, WhatABuildMadeIsTold) {
  tree.write("clay.c", "1");
  tree.write("glaze.c", "2");
  bring();
  EXPECT_TRUE(describe::made_in_mirror(to).empty());
  files::write(to + "/parts/press", "made");
  ::usleep(10000);
  files::write(to + "/glaze.c", "changed");
  EXPECT_EQ(describe::made_in_mirror(to), (std::vector<std::string>{to + "/glaze.c", to + "/parts/press"}));
}

TEST_F(MirrorTest, ABrokenListOfFilesIsBegunAnew) {
  tree.write("clay.c", "1");
  bring();
  for (const char* broken : {"", "nonsense", "clay.c", "\n\n\n"}) {
    for (const auto& entry : std::filesystem::directory_iterator(tree.kiln())) {
      if (entry.is_regular_file()) files::write(entry.path(), broken);
    }
    files::write(to + "/clay.c", "nobody knows where that came from");
    bring();
    EXPECT_EQ(there("clay.c"), "1") << broken;
  }
}

TEST_F(MirrorTest, NoRoomIsAProblem) {
  tree.write("clay.c", "1");
  files::write(tree.scratch() + "/file", "");
  const auto refused = describe::mirror(tree.path(), tree.scratch() + "/file/work");
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(refused.problem().exit, Exit::kiln);
  EXPECT_NE(refused.problem().remedy, "");
}

}  // namespace
}  // namespace coctilis::test
