// Which header an #include means in a tree that says nothing, and what a source reaches by what it includes.
#include "describe/sources/tree.h"

#include "base/text.h"
#include "support.h"
#include "survey/survey.h"

namespace coctilis::describe::sources {
namespace {

class SourcesTreeTest : public testing::Test {
 protected:
  // The paths of all files, then what `source` reaches: "folders | folders for quotes | absent".
  Tree look() {
    return Tree(tree_.path(), settings_,
                [](const std::string& name) { return name == "stdio.h" || name == "string.h"; });
  }
  std::string reach(const std::string& source) {
    Tree tree = look();
    const Reach all = tree.reach(source);
    std::vector<std::string> absent;
    for (const auto& one : all.absent) absent.push_back(one.name + ":" + std::to_string(one.line));
    return text::join(tree_.named(all.folders), " ") + " | " + text::join(tree_.named(all.quote_folders), " ") + " | " +
           text::join(absent, " ");
  }
  test::TreeFolder tree_;
  model::Settings settings_;
};

TEST_F(SourcesTreeTest, HeadersBesideASourceNeedNoFolder) {
  tree_.write("src/kiln.c", "#include \"cone.h\"\n#include <stdio.h>\n");
  tree_.write("src/cone.h", "");
  EXPECT_EQ(reach("src/kiln.c"), " |  | ");
}
TEST_F(SourcesTreeTest, OthersAreFoundByTheirFolder) {
  tree_.write("src/kiln.c", "#include <clay/cone.h>\n#include \"glaze.h\"\n");
  tree_.write("include/clay/cone.h", "#include \"heat.h\"\n");
  tree_.write("include/clay/heat.h", "");
  tree_.write("common/glaze.h", "");
  EXPECT_EQ(reach("src/kiln.c"), "TREE/include TREE/common |  | ");
}
TEST_F(SourcesTreeTest, OfSeveralTheNearestCountsAndOneForOtherSystemsNever) {
  tree_.write("kilns/north/main.c", "#include \"heat.h\"\n");
  tree_.write("kilns/include/heat.h", "");
  tree_.write("presses/heat.h", "");
  EXPECT_EQ(reach("kilns/north/main.c"), "TREE/kilns/include |  | ");
  tree_.write("press/main.c", "#include \"steam.h\"\n");
  tree_.write("win32/steam.h", "");
  EXPECT_EQ(reach("press/main.c"), " |  | steam.h:1");
}
TEST_F(SourcesTreeTest, ANameOfTheCLibraryInBracketsMeansThat) {
  tree_.write("src/kiln.c", "#include <string.h>\n");
  tree_.write("compat/string.h", "");
  EXPECT_EQ(reach("src/kiln.c"), " |  | ");
  // A folder with such a name is for names in quotes only: it would hide the C library's from everybody.
  tree_.write("src/kiln.c", "#include \"string.h\"\n#include \"extra.h\"\n");
  tree_.write("compat/extra.h", "");
  EXPECT_EQ(reach("src/kiln.c"), " | TREE/compat | ");
}
TEST_F(SourcesTreeTest, WhatIsAskedForAndNotThereHasItsPlace) {
  tree_.write("kiln.c", "#include \"a.h\"\n");
  tree_.write("a.h", "#if HAVE_ZLIB_H\n#include <zlib.h>\n#endif\n#include <b.h>\n");
  Tree tree = look();
  const Reach all = tree.reach("kiln.c");
  ASSERT_EQ(all.absent.size(), 2U);
  EXPECT_EQ(all.absent[0].condition, "HAVE_ZLIB_H");
  EXPECT_EQ(all.absent[1].file, "a.h");
  EXPECT_EQ(all.absent[1].line, 4);
  EXPECT_EQ(all.asked, std::set<std::string>{"HAVE_ZLIB_H"});
  EXPECT_EQ(all.files, std::vector<std::string>{"a.h"});
}
TEST_F(SourcesTreeTest, WhatIsMadeIsFoundWhereItIsMade) {
  tree_.write("src/kiln.c", "#include \"config.h\"\n");
  Tree tree = look();
  EXPECT_EQ(tree.reach("src/kiln.c").absent.size(), 1U);
  tree.add_generated("/made/src/config.h", "config.h", "src");
  const Reach all = tree.reach("src/kiln.c");
  EXPECT_TRUE(all.absent.empty());
  EXPECT_EQ(all.folders, std::vector<std::string>{"/made/src"});
  EXPECT_EQ(tree.absolute("src/config.h"), "/made/src/config.h");
  EXPECT_TRUE(tree.is_generated("src/config.h"));
}
TEST_F(SourcesTreeTest, WhatIsNotTheTreesIsPassedOver) {
  for (const char* file : {"kiln.c", ".git/a.c", ".hidden/b.c", "old/c.c", "old/deep/d.c", "kept/e.c", "out/work/f.c"})
    tree_.write(file, "int x;\n");
  tree_.write("out/.gitignore", std::string(survey::kiln_mark) + "\n*\n");
  settings_.leave_out = {"old/**"};
  std::filesystem::create_symlink("/etc/hostname", tree_.path("outside.c"));
  std::filesystem::create_symlink("kiln.c", tree_.path("second.c"));
  std::vector<std::string> paths;
  const auto tree = look();
  for (const auto& file : tree.files()) paths.push_back(file.path);
  EXPECT_EQ(paths, (std::vector<std::string>{"kept/e.c", "kiln.c", "second.c"}));
}
TEST_F(SourcesTreeTest, CirclesOfHeadersEnd) {
  tree_.write("kiln.c", "#include \"a.h\"\n");
  tree_.write("a.h", "#include \"b.h\"\n");
  tree_.write("b.h", "#include \"a.h\"\n#include \"kiln.c\"\n");
  EXPECT_EQ(reach("kiln.c"), " |  | ");
}
TEST_F(SourcesTreeTest, StepsBetweenFolders) {
  EXPECT_EQ(distance("", ""), 0U);
  EXPECT_EQ(distance("a/b", "a/c"), 2U);
  EXPECT_EQ(distance("a", "a/b/c"), 2U);
  EXPECT_EQ(folder_of("a/b/c.h"), "a/b");
  EXPECT_EQ(folder_of("c.h"), "");
  EXPECT_EQ(stem_of("a/clay.tab.c"), "clay");
}

}  // namespace
}  // namespace coctilis::describe::sources
