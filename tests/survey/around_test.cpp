// Which tree a folder is a part of.
#include "survey/around.h"

#include "describe/readers.h"
#include "support.h"
#include "survey/survey.h"

namespace coctilis::survey {
namespace {

class AroundTest : public testing::Test {
 protected:
  std::string around(const std::string& folder) {
    files::make_folder(tree_.path(folder));
    const std::string found = tree_around(tree_.path(folder), describe::description_formats());
    return files::relative(found, tree_.path());
  }
  test::TreeFolder tree_;
};

TEST_F(AroundTest, AFolderThatNothingNamesIsItsOwnTree) {
  EXPECT_EQ(around("curve"), "curve");
  tree_.write("curve/CMakeLists.txt", "project(curve)\n");
  EXPECT_EQ(around("curve"), "curve");
}
TEST_F(AroundTest, ADescriptionThatNamesTheFolderIsAroundIt) {
  tree_.write("CMakeLists.txt", "add_subdirectory(curve)\n");
  tree_.write("curve/CMakeLists.txt", "add_subdirectory(deep)\n");
  EXPECT_EQ(around("curve"), ".");
  EXPECT_EQ(around("curve/deep"), ".");
  // A part of a word is not the name.
  EXPECT_EQ(around("cur"), "cur");
}
TEST_F(AroundTest, SettingsAndKilnsTellWhereATreeBegins) {
  tree_.write("yard/coctilis.toml", "");
  EXPECT_EQ(around("yard/curve/deep"), "yard");
  tree_.write("press/kiln/.gitignore", std::string(kiln_mark) + "\n");
  EXPECT_EQ(around("press/src"), "press");
  tree_.write("other/kiln/.gitignore", "*.o\n");
  EXPECT_EQ(around("other/src"), "other/src");
}
TEST_F(AroundTest, ARepositoryEndsTheSearch) {
  tree_.write("coctilis.toml", "");
  tree_.write("inner/.git/HEAD", "");
  EXPECT_EQ(around("inner"), "inner");
  tree_.write("inner/Makefile", "all:\n");
  EXPECT_EQ(around("inner/src"), "inner");
}
TEST_F(AroundTest, ATreeLooksLikeOne) {
  const auto looks = [&](const std::string& folder) {
    files::make_folder(tree_.path(folder));
    return looks_like_a_tree(tree_.path(folder), describe::description_formats());
  };
  EXPECT_FALSE(looks("empty"));
  tree_.write("a/kiln.c", "");
  EXPECT_TRUE(looks("a"));
  tree_.write("b/src/kiln.c", "");
  EXPECT_TRUE(looks("b"));
  tree_.write("c/src/deep/kiln.c", "");
  EXPECT_FALSE(looks("c"));
  tree_.write("d/Makefile", "");
  EXPECT_TRUE(looks("d"));
}
TEST(LeftOut, IsWhatThePatternsSay) {
  model::Settings settings;
  settings.leave_out = {"old/**", "*.bak", "src/x?.c"};
  for (const char* path : {"old", "old/a/b.c", "a.bak", "src/x1.c"}) EXPECT_TRUE(is_left_out(settings, path)) << path;
  for (const char* path : {"older/a.c", "src/x12.c", "a.c"}) EXPECT_FALSE(is_left_out(settings, path)) << path;
}

}  // namespace
}  // namespace coctilis::survey
