// What goes wrong: each case has its message and exit code.
#include <signal.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cstdlib>

#include "base/text.h"
#include "support.h"

namespace coctilis::test {
namespace {

#define SAYS(said, part) EXPECT_NE((said).all().find(part), std::string::npos) << (said).all()

Said bringup(const TreeFolder& tree, const std::map<std::string, std::optional<std::string>>& environment = {}) {
  return coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}, environment);
}

const char* const head = "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n";

TEST(BadInput, EmptyFolder) {
  TreeFolder tree;
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 4);
  SAYS(said, "the tree is empty");
}

TEST(BadInput, FileInsteadOfFolder) {
  TreeFolder tree;
  tree.write("file.txt", "x");
  const auto said = coctilis({"bringup", tree.path("file.txt")});
  EXPECT_EQ(said.exit, 2);
  SAYS(said, "is a file, not a folder");
}

TEST(BadInput, NoSuchFolder) {
  const auto said = coctilis({"survey", "/no/such/yard"});
  EXPECT_EQ(said.exit, 2);
  SAYS(said, "there is no tree");
}

TEST(BadInput, NoDescriptionNoSources) {
  TreeFolder tree;
  tree.write("notes.txt", "clay");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 4);
  SAYS(said, "it has no sources either");
}

TEST(BadInput, DescriptionThatCannotBeFollowedYet) {
  TreeFolder tree;
  tree.write("SConstruct", "x");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 4);
  SAYS(said, "there is SConstruct");
}

TEST(BadInput, UnknownOptionAndCommand) {
  EXPECT_EQ(coctilis({"bringup", "--bake"}).exit, 2);
  EXPECT_EQ(coctilis({"bake"}).exit, 2);
  EXPECT_EQ(coctilis({}).exit, 2);
  EXPECT_EQ(coctilis({"bringup", "-j", "0"}).exit, 2);
  EXPECT_EQ(coctilis({"bringup", "--set", "x"}).exit, 2);
}

TEST(BadInput, BrokenSettings) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("coctilis.toml", "[tree]\nleave-out = 3\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 2);
  SAYS(said, "coctilis.toml:2");
}

TEST(BadInput, ListfileSyntaxError) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", std::string(head) + "add_executable(x\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 4);
  SAYS(said, "CMakeLists.txt:3");
}

TEST(BadInput, UnknownCommandInListfile) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", std::string(head) + "bake_bricks(6)\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 4);
  SAYS(said, "CMakeLists.txt:3:1: unknown command 'bake_bricks'");
}

TEST(BadInput, NoCompiler) {
  TreeFolder tree;
  write_small_tree(tree);
  const auto said = bringup(tree, {{"PATH", tree.path()}});
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "there is no tool chain");
  SAYS(said, "the package g++ is installed, but no folder of PATH has its programs");
}

TEST(BadInput, MissingLibrariesAllAtOnce) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", std::string(head) +
                                   "find_package(ClayKit REQUIRED)\nadd_executable(x x.c)\ntarget_link_libraries(x "
                                   "glazekit)\nfind_library(F firekit REQUIRED)\n");
  tree.write("x.c", "int main(void) { return 0; }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 3);
  for (const char* name : {"ClayKit", "glazekit", "firekit"}) SAYS(said, name);
  SAYS(said, "3 requirements are missing");
  SAYS(said, "CMakeLists.txt:5");
  const auto wants = coctilis({"locate", tree.path(), "--kiln", tree.kiln(), "--json"});
  EXPECT_EQ(wants.exit, 3);
  EXPECT_EQ(wants.json()["exit"], 3);
}

TEST(BadInput, MissingPackageIsNamed) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", std::string(head) + "find_package(LZO REQUIRED)\n");
  const auto said = bringup(tree, {{"PKG_CONFIG_LIBDIR", tree.path()}});
  if (said.exit == 0) GTEST_SKIP() << "this machine has lzo";
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "apt-get install liblzo2-dev");
}

TEST(BadInput, EmptySubmodule) {
  TreeFolder tree;
  tree.write(".gitmodules", "[submodule \"clay\"]\n\tpath = modules/clay\n\turl = ../clay\n");
  tree.write("CMakeLists.txt", std::string(head) + "add_subdirectory(modules/clay)\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "no repository data that say which revision is wanted");
  SAYS(said, "../clay");
}

TEST(BadInput, UnwritableKiln) {
  TreeFolder tree;
  write_small_tree(tree);
  files::write(tree.kiln(), "a file where the kiln should be");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 2);
  SAYS(said, "is a file");
  std::filesystem::remove(tree.kiln());
  ASSERT_EQ(bringup(tree).exit, 0);
  const std::string label = tree.label_folder();
  std::filesystem::remove_all(label);
  files::write(label, "a file where the label should be");
  const auto again = bringup(tree);
  EXPECT_EQ(again.exit, 7);
  SAYS(again, "cannot write");
  EXPECT_EQ(files::read(label), "a file where the label should be");
}

TEST(BadInput, TwoRunsInOneKiln) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             std::string(head) +
                 "add_custom_target(slow ALL COMMAND sh -c \"touch ${CMAKE_BINARY_DIR}/begun && sleep 20\")\n");
  Command first;
  first.argv = {std::getenv("COCTILIS_PROGRAM"), "bringup", tree.path(), "--kiln", tree.kiln()};
  Process process = Process::start(first);
  for (int i = 0; i < 2000 && !files::is_file(tree.label_folder() + "/work/begun"); ++i) ::usleep(10000);
  const auto second = bringup(tree);
  EXPECT_EQ(second.exit, 7);
  SAYS(second, "in use by another run");
  // Ctrl-C ends the first, with the code that says so.
  process.signal(SIGINT);
  while (!process.poll()) ::usleep(5000);
  EXPECT_EQ(process.take().code, 130);
}

TEST(BadInput, SourceWithAnError) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("press.c", "#include \"brick_that_is_not_there.h\"\nint main(void) { return 0; }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 5);
  SAYS(said, "press.c:1:10: fatal error");
  SAYS(said, "is in none of the include folders");
  const auto run = coctilis({"report", tree.path(), "--kiln", tree.kiln(), "--json"}).json();
  EXPECT_EQ(run["exit"], 5);
  EXPECT_EQ(run["build"]["diagnoses"][0]["failure"], "missing header");
  tree.write("press.c", "int brick(void);\nint main(void) { return brick(); }\n");
  const auto link = bringup(tree);
  EXPECT_EQ(link.exit, 5);
  SAYS(link, "'brick' is used but no object or library");
}

TEST(BadInput, HeaderElsewhereInTheTree) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("include/clay/body.h", "");
  tree.write("press.c", "#include <body.h>\nint main(void) { return 0; }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 5);
  SAYS(said, "the tree has it in 'include/clay'");
}

TEST(BadInput, ProgramThatCrashes) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("press.c", "#include <stdlib.h>\nint main(void) { abort(); }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 6);
  SAYS(said, "ended by signal 6");
}

TEST(BadInput, ProgramThatHangs) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("press.c", "#include <unistd.h>\nint main(void) { for (;;) sleep(1); }\n");
  tree.write("coctilis.toml", "[[smoke]]\nname = \"press\"\nrun = [\"press\"]\nexpect = { within = \"300 ms\" }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 6);
  SAYS(said, "no exit within");
  SAYS(said, "still running after 300 ms");
}

TEST(BadInput, ServerThatWaitsIsNoHang) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("press.c",
             "#include <sys/socket.h>\n#include <netinet/in.h>\n#include <unistd.h>\nint main(void) {\n  struct "
             "sockaddr_in a = {0};\n  int s = socket(AF_INET, SOCK_STREAM, 0);\n  a.sin_family = AF_INET;\n"
             "  bind(s, (struct sockaddr*)&a, sizeof a);\n  listen(s, 1);\n  for (;;) sleep(1);\n}\n");
  EXPECT_EQ(bringup(tree).exit, 0);
}

TEST(BadInput, ProgramThatCannotLoadItsLibrary) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", std::string(head) + "add_executable(press press.c)\ntarget_link_libraries(press " +
                                   tree.scratch() +
                                   "/libclay.so)\nset_target_properties(press PROPERTIES SKIP_BUILD_RPATH ON)\n");
  files::write(tree.scratch() + "/clay.c", "int clay(void) { return 0; }\n");
  Command command;
  command.argv = {"cc", "-shared", "-fPIC", "-Wl,-soname,libclay.so", "-o", "libclay.so", "clay.c"};
  command.folder = tree.scratch();
  ASSERT_TRUE(run(command).good());
  tree.write("press.c", "int clay(void);\nint main(void) { return clay(); }\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 6);
  SAYS(said, "not found by the loader: libclay.so");
}

TEST(BadInput, FailingDeclaredTestAndSmokeCheck) {
  TreeFolder tree;
  tree.write(
      "CMakeLists.txt",
      std::string(head) + "enable_testing()\nadd_executable(press press.c)\nadd_test(NAME pressing COMMAND press 3)\n");
  tree.write(
      "press.c",
      "#include <stdio.h>\nint main(int argc, char** argv) { (void)argv; puts(\"cracked\"); return argc - 1; }\n");
  tree.write("coctilis.toml",
             "[[smoke]]\nname = \"whole\"\nrun = [\"press\"]\nexpect = { output = \"^whole\" }\n[[smoke]]\nname = "
             "\"gone\"\nrun = [\"no_such_press\"]\n");
  const auto said = bringup(tree);
  EXPECT_EQ(said.exit, 6);
  SAYS(said, "pressing: exit code 1");
  SAYS(said, "does not contain '^whole'");
  SAYS(said, "'no_such_press' is no program");
  SAYS(said, "cracked");
}

TEST(BadInput, InterruptedBuildGoesOn) {
  TreeFolder tree;
  tree.write(
      "CMakeLists.txt",
      std::string(head) +
          "add_custom_command(OUTPUT quick COMMAND sh -c \"echo > quick\")\n"
          "add_custom_command(OUTPUT slow COMMAND sh -c \"test -e ${CMAKE_SOURCE_DIR}/go || { touch "
          "${CMAKE_BINARY_DIR}/begun $<SEMICOLON> sleep 3 $<SEMICOLON> } $<SEMICOLON> echo > slow\" DEPENDS quick)\n"
          "add_custom_target(both ALL DEPENDS quick slow)\n");
  Command first;
  first.argv = {std::getenv("COCTILIS_PROGRAM"), "build", tree.path(), "--kiln", tree.kiln()};
  Process process = Process::start(first);
  for (int i = 0; i < 2000 && !files::is_file(tree.label_folder() + "/work/begun"); ++i) ::usleep(10000);
  ::kill(process.pid(), SIGKILL);  // no chance to tidy up
  while (!process.poll()) ::usleep(5000);
  tree.write("go", "");
  const auto run = coctilis({"build", tree.path(), "--kiln", tree.kiln(), "--json"});
  ASSERT_EQ(run.exit, 0) << run.err;
  std::map<std::string, std::string> states;
  const auto record = run.json();
  for (const auto& step : record["build"]["steps"]) states[step["subject"]] = step["state"];
  EXPECT_FALSE(states.contains("quick"));  // there is nothing to tell of what need not run
  EXPECT_EQ(record["build"]["up_to_date"], 1);
  EXPECT_EQ(states["slow"], "done");
}

TEST(BadInput, JsonIsOneDocumentEvenWhenItFails) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", "bake()\n");
  const auto said = coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--json"});
  EXPECT_EQ(said.exit, 4);
  EXPECT_EQ(said.json()["problem"]["place"]["line"], 1);
}

}  // namespace
}  // namespace coctilis::test
