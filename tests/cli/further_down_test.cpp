// Trees whose description is not where or not what one looks for first: further down, scripts of other names, commands
// that are given somewhere inside the tree.
#include "support.h"

namespace coctilis::test {
namespace {

class FurtherDown : public DrivenTree {
 protected:
  void write_makefile(const std::string& folder, const std::string& made) const {
    tree.write(folder + "/Makefile", "all: " + made + "\n" + made + ": " + made + ".c\n\t$(CC) -o $@ $<\n");
    tree.write(folder + "/" + made + ".c",
               "#include <stdio.h>\nint main(void) { puts(\"" + made + "\"); return 0; }\n");
  }
};

TEST_F(FurtherDown, TheOnlyOneIsFollowed) {
  write_makefile("src", "kiln");
  tree.write("README", "Kilns.\n");
  write_makefile("tests", "check");
  write_makefile("third_party/glaze", "glaze");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows src/Makefile"), std::string::npos) << said.all();
  EXPECT_TRUE(is_built("kiln"));
  EXPECT_FALSE(is_built("check"));
  const auto survey = run("survey");
  EXPECT_NE(survey.all().find("tests is a folder of tests"), std::string::npos) << survey.all();
}

TEST_F(FurtherDown, SeveralAreMembersOfOneRun) {
  write_makefile("kilns", "kiln");
  write_makefile("presses", "press");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(is_built("kiln"));
  EXPECT_TRUE(is_built("press"));
  tree.write("coctilis.toml", "[tree]\ncomponents = [\"presses\"]\n");
  const auto one = run("survey");
  EXPECT_NE(one.all().find("presses: in this order, by coctilis.toml"), std::string::npos) << one.all();
}

TEST_F(FurtherDown, OneMayUseWhatLiesBesideIt) {
  tree.write("engine/Makefile",
             "all: kiln\nkiln: kiln.c ../common/fire.c\n\t$(CC) -I../common -o $@ kiln.c ../common/fire.c\n");
  tree.write("engine/kiln.c", "#include \"fire.h\"\nint main(void) { return fire(); }\n");
  tree.write("common/fire.h", "int fire(void);\n");
  tree.write("common/fire.c", "int fire(void) { return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(is_built("kiln"));
}

TEST_F(FurtherDown, OneForThisSystemIsUsedInTheFolderAbove) {
  tree.write("unix/Makefile", "kiln: kiln.o\n\t$(CC) -o kiln kiln.o\nkiln.o: kiln.c\n\t$(CC) -c kiln.c\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(is_built("kiln"));
}

TEST_F(FurtherDown, AFolderBelowAnotherOfWhichThatSaysNothingIsAMember) {
  write_makefile("src", "kiln");
  write_makefile("src/glazing", "glaze");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(is_built("kiln"));
  EXPECT_TRUE(is_built("glaze"));
}

TEST_F(FurtherDown, AScriptOfAUsualNameIsRun) {
  tree.write("compile", "#!/bin/sh\ncc -o kiln kiln.c\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows compile"), std::string::npos) << said.all();
  EXPECT_TRUE(is_built("kiln"));
}

TEST_F(FurtherDown, AScriptGetsTheWordThatItsUsageTextLeaves) {
  tree.write("build.sh",
             "#!/bin/sh\nif [ $# -lt 1 ]; then echo \"usage: build.sh linux|macos|windows\"; exit 1; fi\n"
             "[ \"$1\" = linux ] || exit 3\ncc -o kiln kiln.c\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  tree.write("build.sh",
             "#!/bin/sh\nif [ $# -lt 1 ]; then echo \"usage: build.sh north|south\"; exit 1; fi\ncc -o kiln kiln.c\n");
  const auto asks = run("build");
  EXPECT_EQ(asks.exit, 5) << asks.all();
  EXPECT_NE(asks.all().find("north|south"), std::string::npos) << asks.all();
  EXPECT_NE(asks.all().find("arguments"), std::string::npos) << asks.all();
}

TEST_F(FurtherDown, ADescriptionThatNobodyReadsLeavesTheSources) {
  tree.write("wscript", "def build(bld): pass\n");
  tree.write("SConstruct", "Program('kiln.c')\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(is_built("kiln"));
}

// ---- inside a tree -------------------------------------------------------------------------------------------------
TEST_F(FurtherDown, ACommandInAFolderMeansTheTreeAroundIt) {
  tree.write("coctilis.toml", "[tree]\n");
  tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_subdirectory(curve)\n");
  tree.write("curve/CMakeLists.txt", "add_executable(firecurve firecurve.c)\nadd_executable(cone firecurve.c)\n");
  tree.write("curve/firecurve.c", "int main(void) { return 0; }\n");
  const auto said = coctilis({"build", "firecurve"}, {}, tree.path("curve"));
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("of which this folder is a part"), std::string::npos) << said.all();
  EXPECT_FALSE(files::exists(tree.path("curve/kiln")));
  EXPECT_TRUE(files::exists(tree.path("kiln")));
  // A word at the top is a target as well; one that is neither is an error of its own.
  EXPECT_EQ(coctilis({"build", "cone"}, {}, tree.path()).exit, 0);
  const auto none = coctilis({"build", "glaze"}, {}, tree.path());
  EXPECT_EQ(none.exit, 2) << none.all();
  EXPECT_NE(none.all().find("glaze"), std::string::npos) << none.all();
}

}  // namespace
}  // namespace coctilis::test
