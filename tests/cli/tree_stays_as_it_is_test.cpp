// Descriptions whose commands write into their own tree: the tree stays as it is, and a copy of it is built.
#include <sys/stat.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/sandbox.h"
#include "support.h"

namespace coctilis::test {
namespace {

// Whether this kernel can keep programs from writing; without that only the program's own operations are kept from it.
bool kernel_confines() {
  files::ScratchFolder folder("confines");
  Command command;
  command.argv = {"sh", "-c", "echo x >" + folder.path().string() + "/x"};
  command.writable = {"/nowhere"};
  return !coctilis::run(command).good();
}

class TreeStays : public testing::Test {
 protected:
  void SetUp() override {
    if (!kernel_confines()) GTEST_SKIP() << "this kernel has no Landlock";
    tree.write("main.c", "#include <stdio.h>\n#include \"glaze.h\"\nint main(void) { puts(GLAZE); return 0; }\n");
    tree.write("glaze.h.in", "#define GLAZE \"matt\"\n");
    tree.write("make-glaze", "set -e\ncp glaze.h.in glaze.h\n");
  }
  // What there is below the tree, names with contents.
  [[nodiscard]] std::map<std::string, std::string> all() const {
    std::map<std::string, std::string> out;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.path()))
      out[entry.path().string()] = entry.is_regular_file() ? files::read(entry.path()).value_or("") : "";
    return out;
  }
  // Brings up a tree with this description, which needs a copy; the tree is the same afterwards.
  Said brought_up(const std::string& listfile, int expected = 0) {
    tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\n" + listfile);
    const auto before = all();
    auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
    EXPECT_EQ(said.exit, expected) << said.all();
    EXPECT_EQ(all(), before);
    return said;
  }
  // A program that writes where it was told when it was compiled.
  void write_program_that_writes() const {
    tree.write("main.c",
               "#include <stdio.h>\nint main(void) {\n  FILE *out = fopen(YARD \"/fired.txt\", \"w\");\n"
               "  if (!out) { perror(\"fired.txt\"); return 1; }\n  fputs(\"fired\", out);\n  fclose(out);\n"
               "  return fopen(YARD \"/glaze.h.in\", \"r\") == NULL;\n}\n");
  }
  Said again() const { return coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}); }
  static bool has(const Said& said, const std::string& text) { return said.all().find(text) != std::string::npos; }
  TreeFolder tree;
};

TEST_F(TreeStays, WhenACommandMakesAHeaderBesideItsSources) {
  const auto said = brought_up(
      "add_custom_target(glaze COMMAND sh make-glaze WORKING_DIRECTORY ${CMAKE_SOURCE_DIR})\n"
      "add_executable(kiln main.c)\nadd_dependencies(kiln glaze)\n");
  EXPECT_TRUE(has(said, "CMakeLists.txt:3:1: run glaze writes in the source tree; building a copy of the tree"))
      << said.all();
  // From then on the copy is built at once.
  const auto second = again();
  EXPECT_EQ(second.exit, 0) << second.all();
  EXPECT_FALSE(has(second, "building a copy")) << second.all();
  // The copy follows the tree.
  tree.write("glaze.h.in", "#define GLAZE \"shiny\"\n");
  ASSERT_EQ(again().exit, 0);
  Command command;
  command.argv = {tree.label_folder() + "/bin/kiln"};
  EXPECT_EQ(coctilis::run(command).output, "shiny\n");
}

TEST_F(TreeStays, WhenWhatIsDoneAfterLinkingWritesThere) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  brought_up(
      "add_executable(kiln main.c)\n"
      "add_custom_command(TARGET kiln POST_BUILD COMMAND cp $<TARGET_FILE:kiln> ${CMAKE_SOURCE_DIR}/kiln)\n");
}

TEST_F(TreeStays, WhenAnOperationOfTheDescriptionMakesAFolder) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  const auto said = brought_up(
      "add_executable(kiln main.c)\n"
      "add_custom_command(TARGET kiln POST_BUILD COMMAND ${CMAKE_COMMAND} -E make_directory "
      "${CMAKE_SOURCE_DIR}/bin\n  COMMAND ${CMAKE_COMMAND} -E copy $<TARGET_FILE:kiln> ${CMAKE_SOURCE_DIR}/bin)\n");
  EXPECT_TRUE(has(said, "link kiln writes in the source tree")) << said.all();
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/tree/bin/kiln"));
}

TEST_F(TreeStays, WhenAProgramThatIsRunWhileReadingWritesThere) {
  const auto said = brought_up(
      "execute_process(COMMAND sh make-glaze WORKING_DIRECTORY ${CMAKE_SOURCE_DIR})\nadd_executable(kiln main.c)\n");
  EXPECT_TRUE(has(said, "CMakeLists.txt:3:1: 'sh make-glaze' writes in the source tree; a copy of the tree is built"))
      << said.all();
}

TEST_F(TreeStays, WhenAScriptOfTheLanguageWritesThereLater) {
  tree.write("glaze.cmake", "file(WRITE ${SOURCE}/glaze.h \"#define GLAZE \\\"salt\\\"\\n\")\n");
  brought_up(
      "add_custom_target(glaze COMMAND ${CMAKE_COMMAND} -DSOURCE=${CMAKE_SOURCE_DIR} -P "
      "${CMAKE_SOURCE_DIR}/glaze.cmake)\nadd_executable(kiln main.c)\nadd_dependencies(kiln glaze)\n");
}

TEST_F(TreeStays, WhenACommandRemovesAndMovesWhatIsInIt) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  tree.write("old.txt", "old\n");
  brought_up(
      "add_executable(kiln main.c)\n"
      "add_custom_command(TARGET kiln PRE_BUILD COMMAND mv ${CMAKE_SOURCE_DIR}/old.txt ${CMAKE_SOURCE_DIR}/new.txt\n"
      "  COMMAND rm ${CMAKE_SOURCE_DIR}/new.txt)\n");
}

TEST_F(TreeStays, AlsoWhenWhatWritesThereDoesNotMind) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  const auto said = brought_up(
      "add_custom_target(stamp ALL COMMAND sh -c \"echo x >${CMAKE_SOURCE_DIR}/stamp || true\" VERBATIM)\n"
      "add_executable(kiln main.c)\n");
  EXPECT_FALSE(has(said, "copy of the tree")) << said.all();
}

TEST_F(TreeStays, ACommandThatFailsForAnotherReasonIsNotTriedInACopy) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  const auto said = brought_up("add_custom_target(fail ALL COMMAND sh -c \"echo no clay; exit 3\" VERBATIM)\n", 5);
  EXPECT_FALSE(has(said, "copy of the tree")) << said.all();
  EXPECT_TRUE(has(said, "no clay")) << said.all();
}

TEST_F(TreeStays, ACommandThatFailsInTheCopyTooIsToldOnce) {
  const auto said = brought_up(
      "add_custom_target(glaze ALL COMMAND sh -c \"cp glaze.h.in glaze.h && echo no clay && exit 3\" VERBATIM "
      "WORKING_DIRECTORY ${CMAKE_SOURCE_DIR})\n",
      5);
  EXPECT_TRUE(has(said, "building a copy of the tree")) << said.all();
  EXPECT_TRUE(has(said, "no clay")) << said.all();
}

TEST_F(TreeStays, OnceTheDescriptionIsMendedRerunBuildsTheTreeAgain) {
  brought_up(
      "execute_process(COMMAND touch ${CMAKE_SOURCE_DIR}/glaze.h)\nfile(WRITE ${CMAKE_BINARY_DIR}/glaze.h "
      "\"#define GLAZE \\\"raw\\\"\\n\")\nadd_executable(kiln main.c)\n"
      "target_include_directories(kiln BEFORE PRIVATE ${CMAKE_BINARY_DIR})\n",
      5);
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nadd_executable(kiln main.c)\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "--rerun"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_FALSE(has(said, "copy of the tree")) << said.all();
}

// Whether a program may see another folder in place of one.
bool system_has_name_spaces() {
  Command command;
  command.argv = {"unshare", "--mount", "true"};
  if (coctilis::run(command).good()) return true;
  command.argv = {"unshare", "--user", "--mount", "true"};
  return coctilis::run(command).good();
}

TEST_F(TreeStays, WhenATestWritesBesideWhatItReads) {
  if (!system_has_name_spaces()) GTEST_SKIP() << "no program may have a name space of its own here";
  write_program_that_writes();
  const auto said = brought_up(
      "add_executable(kiln main.c)\ntarget_compile_definitions(kiln PRIVATE YARD=\"${CMAKE_SOURCE_DIR}\")\n"
      "enable_testing()\nadd_test(NAME fires COMMAND kiln)\n"
      "add_test(NAME home COMMAND sh -c \"cd && echo x >.coctilis-test && cat .coctilis-test\")\n");
  EXPECT_EQ(said.all().find("skipped"), std::string::npos) << said.all();
  const auto checks = files::read(tree.label_folder() + "/runs/latest/log").value_or("");
  EXPECT_NE(checks.find("with a copy in place of the tree"), std::string::npos) << checks;
  const char* home = std::getenv("HOME");
  EXPECT_FALSE(home != nullptr && files::is_file(std::string(home) + "/.coctilis-test"));
}

TEST_F(TreeStays, WhatLiesBesideTheTreeIsSeenFromTheCopy) {
  tree.write("../common/glazes.cmake", "set(glaze celadon)\n");
  const auto said = brought_up(
      "include(../common/glazes.cmake)\n"
      "execute_process(COMMAND sh -c \"echo '#define GLAZE \\\"${glaze}\\\"' >glaze.h\" WORKING_DIRECTORY "
      "${CMAKE_SOURCE_DIR})\nadd_executable(kiln main.c)\n");
  EXPECT_TRUE(has(said, "copy of the tree")) << said.all();
}

// The folder for temporary files has the tree in it here, and tmpfile(3) knows no other.
TEST_F(TreeStays, WhenATestMakesATemporaryFile) {
  if (!system_has_name_spaces()) GTEST_SKIP() << "no program may have a name space of its own here";
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  tree.write("main.c",
             "#include <stdio.h>\n#include <stdlib.h>\nint main(void) {\n  if (tmpfile() == NULL) abort();\n"
             "  return 0;\n}\n");
  brought_up("add_executable(kiln main.c)\nenable_testing()\nadd_test(NAME fires COMMAND kiln)\n");
}

TEST_F(TreeStays, ATestThatIsToFailHasToFailForItsOwnReason) {
  if (!system_has_name_spaces()) GTEST_SKIP() << "no program may have a name space of its own here";
  write_program_that_writes();
  const auto said = brought_up(
      "add_executable(kiln main.c)\ntarget_compile_definitions(kiln PRIVATE YARD=\"${CMAKE_SOURCE_DIR}\")\n"
      "enable_testing()\nadd_test(NAME fires COMMAND kiln)\nset_tests_properties(fires PROPERTIES WILL_FAIL TRUE)\n",
      6);
  EXPECT_TRUE(has(said, "fires:")) << said.all();
}

TEST_F(TreeStays, WhenATestIsToldOfAFolderByAWay) {
  tree.write("yard/clay", "red\n");
  brought_up(
      "enable_testing()\nadd_test(NAME digs COMMAND sh -c \"cp $1/clay $1/dug\" dig "
      "${CMAKE_SOURCE_DIR}/yard/../yard)\nfile(WRITE ${CMAKE_BINARY_DIR}/e.c \"int main(void) { return 0; }\")\n"
      "add_executable(kiln ${CMAKE_BINARY_DIR}/e.c)\n");
}

TEST_F(TreeStays, WhenATestNamesAFolderThatIsNone) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  brought_up("add_executable(kiln main.c)\nenable_testing()\nadd_test(fires ${NO_SUCH_FOLDER}/kiln)\n");
}

TEST_F(TreeStays, WhenATestSaysThatItDoesNotCount) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  const auto said = brought_up(
      "add_executable(kiln main.c)\nenable_testing()\n"
      "add_test(NAME glost COMMAND sh -c \"echo no glaze here; exit 1\")\n"
      "set_tests_properties(glost PROPERTIES SKIP_REGULAR_EXPRESSION \"no [a-z]+ here\")\n"
      "add_test(NAME lines COMMAND sh -c \"echo one; echo two\")\n"
      "set_tests_properties(lines PROPERTIES PASS_REGULAR_EXPRESSION \"one.two\")\n");
  EXPECT_TRUE(has(said, "glost: it says so itself")) << said.all();
}

TEST_F(TreeStays, RecipesOfMakefilesWriteInTheKilnOnly) {
  tree.write("glaze.h", "#define GLAZE \"raw\"\n");
  // Where this test is run from: neither the kiln nor a place for temporary files.
  const std::string elsewhere =
      std::filesystem::read_symlink("/proc/self/exe").parent_path().string() + "/stamp-" + std::to_string(::getpid());
  if (elsewhere.starts_with("/tmp/")) GTEST_SKIP() << "the tests themselves are temporary files";
  tree.write("Makefile",
             "kiln: main.c glaze.h\n\techo x >" + elsewhere + " || true\n\techo y >stamp\n\t$(CC) -o $@ main.c\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_FALSE(std::filesystem::remove(elsewhere));
  EXPECT_EQ(files::read(tree.label_folder() + "/work/stamp"), "y\n");
}

// Whatever way a makefile has its commands run, they find nothing to write to outside of the kiln.
TEST_F(TreeStays, WhileAMakefileIsRead) {
  if (!sandbox::why_not().empty()) GTEST_SKIP() << "this system gives no sandbox";
  tree.write("precious", "kept\n");
  const std::string attack = "chmod 777 " + tree.path("precious") + "; echo x >" + tree.path("mark") + "; true";
  for (const std::string& makefile :
       {"X := $(shell " + attack + ")\nall:\n\t@true\n", "X != " + attack + "\nall:\n\t@true\n",
        "include made.mk\nmade.mk:\n\t-" + attack + "\n\ttouch made.mk\nall:\n\t@true\n"}) {
    tree.write("Makefile", makefile);
    const auto said = coctilis({"build", tree.path(), "--kiln", tree.kiln()});
    EXPECT_EQ(said.exit, 0) << makefile << said.all();
    EXPECT_FALSE(files::exists(tree.path("mark"))) << makefile;
    EXPECT_NE(std::filesystem::status(tree.path("precious")).permissions(), std::filesystem::perms::all) << makefile;
  }
}

}  // namespace
}  // namespace coctilis::test
