// What is installed, and what is told of a subject.
#include <sys/stat.h>

#include "base/elf.h"
#include "base/text.h"
#include "support.h"

namespace coctilis::test {
namespace {

// A library and a program that links it, installed and handed on to other trees.
void write_kiln_library(const TreeFolder& tree) {
  tree.write("yard/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(kilns VERSION 2.1 LANGUAGES C)\ninclude(GNUInstallDirs)\n"
             "include(CheckFunctionExists)\ncheck_function_exists(qsort HAS_QSORT)\n"
             "check_function_exists(no_such_kiln HAS_NONE)\n"
             "option(WITH_LOG \"Write what was fired\" OFF)\n"
             "add_library(kiln SHARED kiln.c)\n"
             "target_include_directories(kiln PUBLIC $<BUILD_INTERFACE:${CMAKE_CURRENT_SOURCE_DIR}/include> "
             "$<INSTALL_INTERFACE:include>)\n"
             "target_compile_definitions(kiln PUBLIC KILN_SHARED=1)\n"
             "set_target_properties(kiln PROPERTIES VERSION 2.1 SOVERSION 2 PUBLIC_HEADER include/kiln.h)\n"
             "add_executable(fire fire.c)\ntarget_link_libraries(fire PRIVATE kiln)\n"
             "install(TARGETS kiln fire EXPORT kilns PUBLIC_HEADER DESTINATION include)\n"
             "install(EXPORT kilns NAMESPACE yard:: FILE kilns-config.cmake DESTINATION lib/cmake/kilns)\n"
             "install(DIRECTORY data/ DESTINATION share/kilns FILES_MATCHING PATTERN *.csv PATTERN old EXCLUDE)\n"
             "install(PROGRAMS tool.sh DESTINATION bin RENAME tool)\n"
             "install(FILES note.txt DESTINATION /etc/kilns)\n"
             "install(CODE \"message(STATUS hello)\")\n");
  tree.write("yard/include/kiln.h", "int kiln_peak(void);\n");
  tree.write("yard/kiln.c", "#include \"kiln.h\"\nint kiln_peak(void) { return 1222; }\n");
  tree.write("yard/fire.c", "#include <kiln.h>\nint main(void) { return kiln_peak() == 1222 ? 0 : 1; }\n");
  tree.write("yard/data/cones.csv", "6,1222\n");
  tree.write("yard/data/readme.md", "-\n");
  tree.write("yard/data/old/cones.csv", "6,1200\n");
  tree.write("yard/tool.sh", "#!/bin/sh\n");
  tree.write("yard/note.txt", "-\n");
}

TEST(Stage, InstallsWhatOtherTreesCanUse) {
  TreeFolder place;
  write_kiln_library(place);
  const std::string prefix = place.scratch() + "/prefix";
  const auto said = coctilis({"stage", place.path("yard"), "--kiln", place.kiln(), "--prefix", prefix, "--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  const auto staged = said.json()["staged"];
  EXPECT_EQ(staged["outside"], (std::vector<std::string>{"/etc/kilns/note.txt"}));
  for (const char* file : {"bin/fire", "bin/tool", "lib/libkiln.so.2.1", "include/kiln.h", "share/kilns/cones.csv",
                           "lib/cmake/kilns/kilns-config.cmake"})
    EXPECT_TRUE(files::is_file(prefix + "/" + file)) << file;
  EXPECT_FALSE(files::is_file(prefix + "/share/kilns/readme.md"));
  EXPECT_FALSE(files::is_file(prefix + "/share/kilns/old/cones.csv"));
  EXPECT_EQ(std::filesystem::read_symlink(prefix + "/lib/libkiln.so.2"), "libkiln.so.2.1");
  struct stat info {};
  ASSERT_EQ(::stat((prefix + "/bin/tool").c_str(), &info), 0);
  EXPECT_EQ(info.st_mode & 0777U, 0755U);
  // The program finds its library from where it lies, without the kiln.
  EXPECT_EQ(read_elf(prefix + "/bin/fire")->run_path, (std::vector<std::string>{"$ORIGIN/../lib"}));
  std::filesystem::remove_all(place.kiln());
  Command fire;
  fire.argv = {prefix + "/bin/fire"};
  EXPECT_TRUE(coctilis::run(fire).good());

  // Another tree links the installed library by its handed-on target.
  place.write("works/CMakeLists.txt",
              "cmake_minimum_required(VERSION 3.16)\nproject(works C)\nfind_package(kilns CONFIG REQUIRED)\n"
              "add_executable(works works.c)\ntarget_link_libraries(works yard::kiln)\n");
  place.write("works/works.c",
              "#include <kiln.h>\n#ifndef KILN_SHARED\n#error not handed on\n#endif\n"
              "int main(void) { return kiln_peak() == 1222 ? 0 : 1; }\n");
  const auto used = coctilis({"bringup", place.path("works"), "--kiln", place.kiln(), "--with", prefix});
  EXPECT_EQ(used.exit, 0) << used.err;

  // Moved as a whole, it still works.
  std::filesystem::rename(prefix, prefix + "2");
  fire.argv = {prefix + "2/bin/fire"};
  EXPECT_TRUE(coctilis::run(fire).good());
  const auto moved = coctilis({"bringup", place.path("works"), "--kiln", place.kiln(), "--with", prefix + "2"});
  EXPECT_EQ(moved.exit, 0) << moved.err;
}

TEST(Stage, SaysWhatItLeavesAlone) {
  TreeFolder place;
  write_kiln_library(place);
  const std::string prefix = place.scratch() + "/prefix";
  const std::vector<std::string> command = {"stage", place.path("yard"), "--kiln", place.kiln(), "--prefix", prefix};
  const auto said = coctilis(command);
  ASSERT_EQ(said.exit, 0) << said.err;
  EXPECT_NE(said.all().find("/etc/kilns/note.txt lies outside the prefix"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("install(CODE) is not followed"), std::string::npos) << said.all();
  const auto again = coctilis(command);
  EXPECT_NE(again.all().find("all there already"), std::string::npos) << again.all();
}

TEST(Stage, NeverLeavesThePrefix) {
  TreeFolder place;
  place.write("yard/CMakeLists.txt",
              "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_executable(fire fire.c)\n"
              "install(FILES fire.c DESTINATION ../../out_of_here)\n");
  place.write("yard/fire.c", "int main(void) { return 0; }\n");
  const auto said =
      coctilis({"stage", place.path("yard"), "--kiln", place.kiln(), "--prefix", place.scratch() + "/deep/prefix"});
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("outside the prefix"), std::string::npos) << said.all();
  EXPECT_FALSE(std::filesystem::exists(place.scratch() + "/out_of_here"));
}

TEST(Stage, NothingToInstallIsSaid) {
  TreeFolder place;
  write_small_tree(place);
  const auto said = coctilis({"stage", place.path(), "--kiln", place.kiln(), "--prefix", place.scratch() + "/p"});
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("installs nothing"), std::string::npos) << said.all();
}

class Why : public testing::Test {
 protected:
  void SetUp() override { write_kiln_library(place); }
  std::string ask(const std::string& subject, int exit = 0) {
    const auto said = coctilis({"why", subject, place.path("yard"), "--kiln", place.kiln()});
    EXPECT_EQ(said.exit, exit) << said.all();
    return said.all();
  }
  void build() { ASSERT_EQ(coctilis({"build", place.path("yard"), "--kiln", place.kiln()}).exit, 0); }
  static void expect(const std::string& said, const std::string& words) {
    EXPECT_NE(said.find(words), std::string::npos) << "'" << words << "' is not in: " << said;
  }
  TreeFolder place;
};

TEST_F(Why, AQuestionWithItsSourceCommandAndOutput) {
  const std::string said = ask("HAS_NONE");
  expect(said, "HAS_NONE is empty (no): a C program did not compile or link");
  expect(said, "CMakeLists.txt:6:1");
  expect(said, "probe.c");
  expect(said, "int main(void) { return no_such_kiln(); }");
  expect(said, "undefined reference");
  expect(ask("HAS_QSORT"), "HAS_QSORT is 1: a C program compiled and linked");
  expect(
      place.read("../out/" + std::filesystem::path(place.label_folder()).filename().string() + "/compiler-checks.log"),
      "no_such_kiln");
}

TEST_F(Why, OptionsTargetsAndSteps) {
  expect(ask("WITH_LOG"), "option WITH_LOG is OFF");
  expect(ask("kiln"), "linked by fire");
  expect(ask("fire.c"), "there is no record of a build yet");
  build();
  expect(ask("fire.c"), "run 1: done; cause: first build");
  build();
  expect(ask("fire.c"), "run 2: up to date");
  place.write("yard/include/kiln.h", "int kiln_peak(void);\nint kiln_floor(void);\n");
  build();
  const std::string said = ask("fire.c");
  expect(said, "run 3: unchanged; cause: ");
  expect(said, "kiln.h");
  expect(ask("kiln.h"), "read by 2 steps");
  expect(ask("CMakeLists.txt"), "part of the description");
}

TEST_F(Why, SymbolsAndFailures) {
  build();
  const std::string said = ask("kiln_peak");
  expect(said, "defined in kiln");
  expect(said, "used by fire");
  expect(ask("failure"), "did not fail");
  place.write("yard/fire.c", "int main(void) { return kiln_pek(); }\n#error half a brick\n");
  EXPECT_EQ(coctilis({"build", place.path("yard"), "--kiln", place.kiln()}).exit, 5);
  expect(ask("failure"), "half a brick");
}

TEST_F(Why, UnknownSubjectsGetAProposal) {
  expect(ask("HAS_QSRT", 2), "did you mean 'HAS_QSORT'?");
  expect(ask("quite_something_else", 2), "nothing is known of");
}

}  // namespace
}  // namespace coctilis::test
