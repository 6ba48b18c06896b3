// try_compile and try_run with several sources, with libraries, with a copy of the result; and the words by which a
// description configures another tree.
#include <sys/stat.h>

#include "describe/listfile/inner_tree.h"
#include "describe/reader.h"

namespace coctilis::test {
namespace {

using Lines = std::vector<std::string>;
using describe::listfile::InnerCall;
using describe::listfile::understand_inner;

const char* const beginning = "cmake_minimum_required(VERSION 3.25)\nproject(yard C CXX)\n";

TEST(Trials, SeveralSourcesMakeOneProgram) {
  Reading reading;
  reading.tree.write("trial/main.c", "int bricks(void);\nint main(void) { return bricks() - 7; }\n");
  reading.tree.write("trial/bricks.c", "#include \"bricks.h\"\nint bricks(void) { return COUNT; }\n");
  reading.tree.write("trial/bricks.h", "#define COUNT 7\n");
  EXPECT_EQ(reading.says("try_compile(both ${CMAKE_BINARY_DIR} SOURCES ${CMAKE_SOURCE_DIR}/trial/main.c "
                         "${CMAKE_SOURCE_DIR}/trial/bricks.c)\n"
                         "try_compile(one ${CMAKE_BINARY_DIR} ${CMAKE_SOURCE_DIR}/trial/main.c)\n"
                         "try_run(code compiled ${CMAKE_BINARY_DIR} SOURCES ${CMAKE_SOURCE_DIR}/trial/main.c "
                         "${CMAKE_SOURCE_DIR}/trial/bricks.c)\n"
                         "message(STATUS \"${both} ${one} ${compiled} ${code}\")\n",
                         beginning),
            (Lines{"TRUE FALSE TRUE 0"}));
}

TEST(Trials, OnlyObjectsWhereTheDescriptionWantsNoMore) {
  Reading reading;
  EXPECT_EQ(reading.says("set(CMAKE_TRY_COMPILE_TARGET_TYPE STATIC_LIBRARY)\n"
                         "set(text \"int kiln(void); int fire(void) { return kiln(); }\")\n"
                         "try_compile(one SOURCE_FROM_VAR fire.c text)\n"
                         "try_compile(two SOURCE_FROM_VAR fire.c text SOURCE_FROM_CONTENT clay.c \"int clay;\")\n"
                         "try_compile(bad SOURCE_FROM_CONTENT fire.c \"int kiln(\")\n"
                         "message(STATUS \"${one} ${two} ${bad}\")\n",
                         beginning),
            (Lines{"TRUE TRUE FALSE"}));
}

TEST(Trials, TargetsHandOnWhatTheyBring) {
  Reading reading;
  reading.tree.write("include/glaze.h", "static inline int glaze(void) { return GLAZE; }\n");
  EXPECT_EQ(reading.says("add_library(glaze INTERFACE IMPORTED)\n"
                         "set_target_properties(glaze PROPERTIES INTERFACE_INCLUDE_DIRECTORIES "
                         "${CMAKE_SOURCE_DIR}/include INTERFACE_COMPILE_DEFINITIONS GLAZE=3 "
                         "INTERFACE_LINK_LIBRARIES \"$<LINK_ONLY:m>\")\n"
                         "set(text \"#include <glaze.h>\\n#include <math.h>\\n"
                         "int main(int n, char** v) { return (int)cos(n) + glaze() - 3; }\")\n"
                         "try_compile(with SOURCE_FROM_VAR main.c text LINK_LIBRARIES glaze)\n"
                         "try_compile(without SOURCE_FROM_VAR main.c text)\n"
                         "message(STATUS \"${with} ${without}\")\n",
                         beginning),
            (Lines{"TRUE FALSE"}));
}

TEST(Trials, ListsInOneWordAreListsToo) {
  Reading reading;
  EXPECT_EQ(reading.says("set(text \"#include <math.h>\\n"
                         "int main(int n, char** v) { return (int)cos(n) * CONE * CLAY; }\")\n"
                         "set(libraries m dl)\n"
                         "try_compile(with SOURCE_FROM_VAR main.c text COMPILE_DEFINITIONS \"CONE=0;CLAY=1\" "
                         "LINK_OPTIONS \"-Wl,-O1;-Wl,-s\" LINK_LIBRARIES \"dl;${libraries}\")\n"
                         "message(STATUS \"${with}\")\n",
                         beginning),
            (Lines{"TRUE"}));
}

TEST(Trials, WhereImportedTargetsLie) {
  Reading reading;
  EXPECT_EQ(
      reading.says("add_library(clay SHARED IMPORTED)\nset_target_properties(clay PROPERTIES "
                   "IMPORTED_LOCATION_NOCONFIG /yard/libclay.so)\n"
                   "add_library(loam SHARED IMPORTED)\nset_target_properties(loam PROPERTIES "
                   "IMPORTED_LOCATION /yard/libloam.so IMPORTED_LOCATION_DEBUG /yard/libloamd.so)\n"
                   "add_library(none SHARED IMPORTED)\n"
                   "foreach(target clay loam none)\n  get_target_property(l ${target} LOCATION)\n"
                   "  get_target_property(d ${target} LOCATION_DEBUG)\n  message(STATUS \"${l} ${d}\")\n"
                   "endforeach()\n",
                   beginning),
      (Lines{"/yard/libclay.so /yard/libclay.so", "/yard/libloam.so /yard/libloamd.so", "l-NOTFOUND d-NOTFOUND"}));
}

TEST(Trials, TheProgramIsCopiedWhereItIsWanted) {
  Reading reading;
  const auto project = reading.read(
      "try_compile(made SOURCE_FROM_CONTENT main.c \"int main(void) { return 0; }\" COPY_FILE "
      "${CMAKE_BINARY_DIR}/tool)\n",
      beginning);
  ASSERT_TRUE(project.ok()) << project.problem().what;
  struct stat info {};
  ASSERT_EQ(::stat((reading.tree.kiln() + "/work/tool").c_str(), &info), 0);
  EXPECT_NE(info.st_mode & 0100U, 0U);
  Command command;
  command.argv = {reading.tree.kiln() + "/work/tool"};
  EXPECT_TRUE(coctilis::run(command).good());
}

TEST(Trials, AProgramGetsItsArgumentsAndItsFolder) {
  Reading reading;
  reading.tree.write("place/here.txt", "");
  reading.tree.write("main.c",
                     "#include <stdio.h>\nint main(int n, char** v) { FILE* f = fopen(\"here.txt\", \"r\");"
                     " printf(\"%s\", n > 2 ? v[2] : \"\"); return f ? n : 0; }\n");
  EXPECT_EQ(reading.says("try_run(code made ${CMAKE_BINARY_DIR} SOURCES ${CMAKE_SOURCE_DIR}/main.c "
                         "RUN_OUTPUT_VARIABLE out WORKING_DIRECTORY ${CMAKE_SOURCE_DIR}/place ARGS a \"b c\")\n"
                         "try_run(other made ${CMAKE_BINARY_DIR} SOURCES ${CMAKE_SOURCE_DIR}/main.c)\n"
                         "message(STATUS \"${code} ${out} ${other}\")\n",
                         beginning),
            (Lines{"3 b c 0"}));
  const auto apart =
      reading.read("try_run(a b SOURCE_FROM_CONTENT m.c \"\" RUN_OUTPUT_STDERR_VARIABLE e)\n", beginning);
  ASSERT_FALSE(apart.ok());
  EXPECT_NE(apart.problem().what.find("RUN_OUTPUT_STDERR_VARIABLE"), std::string::npos);
}

TEST(Trials, AStandardCountsOnItsOwnOrByPolicy) {
  Reading reading;
  const std::string ask =
      "set(CMAKE_CXX_STANDARD 20)\nset(text \"#if __cplusplus < 202002L\\n#error old\\n#endif\\nint main() {}\")\n"
      "file(WRITE ${CMAKE_BINARY_DIR}/main.cpp \"${text}\")\n"
      "try_compile(plain ${CMAKE_BINARY_DIR} ${CMAKE_BINARY_DIR}/main.cpp)\n"
      "try_compile(said ${CMAKE_BINARY_DIR} ${CMAKE_BINARY_DIR}/main.cpp CXX_STANDARD 20)\n"
      "message(STATUS \"${plain} ${said}\")\n";
  EXPECT_EQ(reading.says(ask, "cmake_minimum_required(VERSION 3.8)\nproject(yard CXX)\n"), (Lines{"TRUE TRUE"}));
  EXPECT_EQ(reading.says(ask, "cmake_minimum_required(VERSION 3.7)\nproject(yard CXX)\n"), (Lines{"FALSE TRUE"}));
}

TEST(Trials, ASourceThatIsNotThereIsToldOf) {
  Reading reading;
  const auto project = reading.read("try_compile(x ${CMAKE_BINARY_DIR} SOURCES nowhere.c)\n", beginning);
  ASSERT_FALSE(project.ok());
  EXPECT_EQ(project.problem().exit, Exit::description);
  EXPECT_NE(project.problem().what.find("nowhere.c"), std::string::npos);
  EXPECT_EQ(project.problem().place.line, 3);
}

// ---- other trees
// -----------------------------------------------------------------------------------------------------

TEST(InnerTrees, TheWordsOfACall) {
  const TreeFolder tree;
  tree.write("slip/CMakeLists.txt", "");
  InnerCall call;
  EXPECT_TRUE(understand_inner({"-S", "slip", "-Bout", "-G", "Some", "-DA:BOOL=ON", "-D", "B=a=b", "-Wno-dev"},
                               tree.path(), call));
  EXPECT_EQ(call.kind, InnerCall::Kind::configure);
  EXPECT_EQ(call.source, tree.path("slip"));
  EXPECT_EQ(call.binary, tree.path("out"));
  EXPECT_EQ(call.sets, (Lines{"A=ON", "B=a=b"}));

  call = {};
  EXPECT_TRUE(understand_inner({"-G", "Some", "."}, tree.path("slip"), call));
  EXPECT_EQ(call.source, tree.path("slip"));
  EXPECT_EQ(call.binary, tree.path("slip"));

  call = {};
  EXPECT_TRUE(understand_inner({"--build", "out", "--config", "Release", "--target", "a", "b", "-j", "4", "--", "-k"},
                               tree.path(), call));
  EXPECT_EQ(call.kind, InnerCall::Kind::build);
  EXPECT_EQ(call.binary, tree.path("out"));
  EXPECT_EQ(call.targets, (Lines{"a", "b"}));

  call = {};
  EXPECT_TRUE(understand_inner({"--build", "out", "--target", "install"}, tree.path(), call));
  EXPECT_EQ(call.kind, InnerCall::Kind::install);
  call = {};
  EXPECT_TRUE(understand_inner({"--install", "out", "--prefix", "in"}, tree.path(), call));
  EXPECT_EQ(call.prefix, tree.path("in"));
}

TEST(InnerTrees, WhatIsNoneOfTheseIsNotTaken) {
  const TreeFolder tree;
  tree.write("slip/CMakeLists.txt", "");
  for (const Lines& words : {Lines{"-E", "echo", "x"}, Lines{"--version"}, Lines{"nowhere"}, Lines{"-S", "nowhere"},
                             Lines{"--build"}, Lines{"-P", "slip/CMakeLists.txt"}, Lines{"-S", "slip", "--strange"}}) {
    InnerCall call;
    EXPECT_FALSE(understand_inner(words, tree.path(), call)) << words.front();
  }
}

// ---- policies
// --------------------------------------------------------------------------------------------------------

TEST(Policies, ComeWithTheVersionAskedFor) {
  Reading reading;
  const std::string ask =
      "foreach(p 0022 0048 0058 0077 0126)\n  cmake_policy(GET CMP${p} x)\n  string(APPEND all \"${p}=${x} \")\n"
      "endforeach()\nmessage(STATUS \"${all}\")\n";
  EXPECT_EQ(reading.says(ask, "cmake_minimum_required(VERSION 3.3)\nproject(yard NONE)\n"),
            (Lines{"0022=NEW 0048=NEW 0058=NEW 0077= 0126= "}));
  EXPECT_EQ(reading.says("cmake_policy(SET CMP0022 OLD)\n" + ask,
                         "cmake_minimum_required(VERSION 2.8...3.13)\nproject(yard NONE)\n"),
            (Lines{"0022=OLD 0048=NEW 0058=NEW 0077=NEW 0126= "}));
}

}  // namespace
}  // namespace coctilis::test
