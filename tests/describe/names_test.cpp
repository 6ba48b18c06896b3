// What a listfile gives and asks for by name, without being run.
#include "describe/listfile/names.h"

#include "base/text.h"
#include "support.h"

namespace coctilis::describe::listfile {
namespace {

class ListfileNames : public testing::Test {
 protected:
  survey::Names look(const std::string& text) {
    tree_.write("CMakeLists.txt", text);
    survey::Names names;
    names_in(tree_.path("CMakeLists.txt"), names);
    return names;
  }
  std::string asked(const std::string& text) {
    std::vector<std::string> out;
    for (const auto& one : look(text).asked) out.push_back(one.name + one.constraint);
    return text::join(out, " ");
  }
  std::string given(const std::string& text) { return text::join(look(text).given, " "); }
  test::TreeFolder tree_;
};

TEST_F(ListfileNames, PackagesModulesLibrariesAndPrograms) {
  EXPECT_EQ(asked("find_package(Clay 2.1 REQUIRED)\nfind_package(Heat CONFIG)\n"), "Clay>= 2.1 Heat");
  EXPECT_EQ(asked("include(CMakeFindDependencyMacro)\nfind_dependency(Clay)\n"), "Clay");
  EXPECT_EQ(asked("pkg_check_modules(C REQUIRED IMPORTED_TARGET clay>=1.2 heat)\n"), "clay>=1.2 heat");
  EXPECT_EQ(asked("find_library(C NAMES clay clay2 PATHS /opt)\nfind_program(P oven)\nfind_library(D /x/y)\n"),
            "clay clay2 oven");
  EXPECT_EQ(asked("target_link_libraries(kiln PRIVATE clay Kiln::door -lheat)\n"), "kiln clay door Kiln heat");
}
TEST_F(ListfileNames, InWhateverBranchTheyStand) {
  EXPECT_EQ(
      asked("if(A)\n  find_package(Clay)\nelse()\n  foreach(x 1)\n    find_package(Heat)\n  endforeach()\nendif()\n"
            "function(f)\n  find_package(Stone)\nendfunction()\n"),
      "Clay Heat Stone");
}
TEST_F(ListfileNames, TargetsAndWhatIsExported) {
  EXPECT_EQ(given("project(yard VERSION 3.1)\nadd_library(clay a.c)\nadd_executable(oven b.c)\n"
                  "add_library(alias ALIAS clay)\nadd_library(other SHARED IMPORTED)\n"
                  "install(EXPORT claySet FILE Clay-config.cmake)\n"),
            "yard clay oven claySet Clay");
  EXPECT_EQ(look("project(yard VERSION 3.1)\n").version, "3.1");
}
TEST_F(ListfileNames, PlainVariablesAreKnownOthersAreLeftOut) {
  EXPECT_EQ(
      given("set(NAME clay)\nproject(${NAME})\nadd_library(${PROJECT_NAME}core x.c)\nadd_library(${UNKNOWN} y.c)\n"),
      "clay claycore");
  EXPECT_EQ(asked("set(A ${A})\nfind_package(${A})\nset(B x y)\nfind_package(${B})\n"), "");
}
TEST_F(ListfileNames, WhatIsNotWellFormedSaysNothing) {
  EXPECT_EQ(given("project(yard\n"), "");
  survey::Names names;
  names_in(tree_.path("none"), names);
  EXPECT_TRUE(names.given.empty());
}

}  // namespace
}  // namespace coctilis::describe::listfile
