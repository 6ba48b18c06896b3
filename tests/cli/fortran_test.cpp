// Trees in Fortran: compiled in the order of their modules, and again only where an interface has changed.
#include "support.h"

namespace coctilis::test {
namespace {

class Fortran : public testing::Test {
 protected:
  Fortran() {
    list("curve/heat.F90 curve/glaze.f90 curve/soak.f90");
    tree.write("curve/heat.F90",
               "module heat\n#ifdef WET\n  use glaze, only: melt\n#endif\n  implicit none\n  interface\n"
               "    module function soak(x) result(r)\n      real, intent(in) :: x\n      real :: r\n    end function\n"
               "  end interface\ncontains\n  real function peak(x)\n    real, intent(in) :: x\n    peak = melt(x)\n"
               "  end function\nend module\n");
    tree.write("curve/soak.f90",
               "submodule (heat) soaking\ncontains\n  module procedure soak\n    r = x * 2.0\n  end procedure\n"
               "end submodule\n");
    tree.write("curve/glaze.f90",
               "module Glaze\n  implicit none\n  include 'cones.inc'\ncontains\n  real function melt(x)\n"
               "    real, intent(in) :: x\n    melt = x + cone\n  end function\nend module\n");
    tree.write("curve/cones.inc", "  real, parameter :: cone = 6.0\n");
    tree.write("main.f90",
               "program firing\n  use heat\n  implicit none\n  real :: legacy\n"
               "  print '(a,f6.1)', 'peak ', peak(1.0) + soak(2.0) + legacy(1.0)\nend program\n");
    tree.write(
        "old/legacy.f",
        "C     an old one\n      REAL FUNCTION LEGACY(X)\n      USE GLAZE\n      REAL X\n      LEGACY = MELT(X) +\n"
        "     1  0.0\n      END\n");
  }
  void list(const std::string& sources) {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(model Fortran)\nadd_library(curve STATIC " + sources +
                   ")\ntarget_compile_definitions(curve PRIVATE WET)\nadd_executable(firing main.f90 old/legacy.f)\n"
                   "target_link_libraries(firing PRIVATE curve)\n");
  }
  Said build(int jobs = 4) {
    return coctilis({"build", tree.path(), "--kiln", tree.kiln(), "-j", std::to_string(jobs)});
  }
  // The sources that were compiled in the last run, by name.
  std::set<std::string> compiled() const {
    std::set<std::string> out;
    const auto run = tree.record();
    for (const auto& step : run["build"]["steps"]) {
      if (step["kind"] == "compile") out.insert(step["subject"]);
    }
    return out;
  }
  std::string fired() const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/firing"};
    return coctilis::run(command).output;
  }
  void replace(const std::string& name, const std::string& from, const std::string& to) {
    std::string text = tree.read(name);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos);
    tree.write(name, text.replace(at, from.size(), to));
  }
  TreeFolder tree;
};

TEST_F(Fortran, IsCompiledInTheOrderOfItsModules) {
  const auto said = build();
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(fired(), "peak   18.0\n");
  EXPECT_EQ(build().exit, 0);
  EXPECT_TRUE(compiled().empty());
}

TEST_F(Fortran, AnInterfaceThatStaysStopsTheWave) {
  ASSERT_EQ(build().exit, 0);
  replace("curve/glaze.f90", "melt = x + cone", "melt = x + cone + 1.0");
  ASSERT_EQ(build().exit, 0);
  EXPECT_EQ(compiled(), std::set<std::string>{"curve/glaze.f90"});
  EXPECT_EQ(fired(), "peak   20.0\n");
  // A constant is part of the interface.
  replace("curve/cones.inc", "6.0", "7.0");
  ASSERT_EQ(build().exit, 0);
  EXPECT_EQ(compiled(), (std::set<std::string>{"curve/glaze.f90", "curve/heat.F90", "old/legacy.f"}));
  EXPECT_EQ(fired(), "peak   22.0\n");
}

TEST_F(Fortran, AModuleThatIsGoneIsNotFoundAnyMore) {
  ASSERT_EQ(build().exit, 0);
  replace("curve/glaze.f90", "module Glaze", "module Slip");
  const auto said = build();
  EXPECT_EQ(said.exit, 5);
  EXPECT_NE(said.all().find("glaze"), std::string::npos) << said.all();
  replace("curve/glaze.f90", "module Slip", "module Glaze");
  EXPECT_EQ(build().exit, 0);
}

TEST_F(Fortran, AModuleMovesAndIsMissing) {
  ASSERT_EQ(build().exit, 0);
  // It moves to another source.
  tree.write("curve/all.f90", tree.read("curve/glaze.f90"));
  tree.write("curve/glaze.f90", "! elsewhere\n");
  list("curve/heat.F90 curve/glaze.f90 curve/soak.f90 curve/all.f90");
  ASSERT_EQ(build().exit, 0);
  EXPECT_EQ(fired(), "peak   18.0\n");
  // Somebody takes its file away.
  std::filesystem::remove(tree.label_folder() + "/work/.objects/curve/modules/glaze.mod");
  ASSERT_EQ(build().exit, 0);
  EXPECT_EQ(compiled(), std::set<std::string>{"curve/all.f90"});
}

// Two sources change at once: one takes a module over from the other, whose last results are not its own any more.
TEST_F(Fortran, AModuleMovesToASourceThatIsCompiledBefore) {
  const std::string glaze = tree.read("curve/glaze.f90");
  tree.write("curve/all.f90", "module slip\nend module\n" + glaze);
  tree.write("curve/glaze.f90", "! elsewhere\n");
  list("curve/heat.F90 curve/glaze.f90 curve/soak.f90 curve/all.f90");
  ASSERT_EQ(build(1).exit, 0);
  tree.write("curve/glaze.f90", glaze);
  tree.write("curve/all.f90", "module slip\nend module\n");
  for (int i = 0; i < 2; ++i) {
    const auto said = build(1);
    EXPECT_EQ(said.exit, 0) << said.all();
    EXPECT_EQ(fired(), "peak   18.0\n");
  }
}

TEST_F(Fortran, ModulesInACircleAreToldSo) {
  tree.write("curve/soak.f90", "module ramp\n  use hold\nend module\n");
  tree.write("curve/hold.f90", "module hold\n  use ramp\nend module\n");
  list("curve/heat.F90 curve/glaze.f90 curve/soak.f90 curve/hold.f90");
  for (int i = 0; i < 2; ++i) {
    const auto said = build();
    EXPECT_EQ(said.exit, 5);
    EXPECT_NE(said.all().find("modules use each other in a circle: soak uses hold uses soak"), std::string::npos)
        << said.all();
  }
}

TEST_F(Fortran, ModulesThatAreNotFoundAreExplained) {
  tree.write("curve/glaze.f90", "! nothing\n");
  auto said = build();
  EXPECT_EQ(said.exit, 5);
  EXPECT_NE(said.all().find("no source that is built here defines the module 'glaze'"), std::string::npos)
      << said.all();
  // One that another target has.
  tree.write("alone.f90", "module glaze\nend module\n");
  tree.write("CMakeLists.txt", tree.read("CMakeLists.txt") + "add_library(alone STATIC alone.f90)\n");
  said = build();
  EXPECT_EQ(said.exit, 5);
  // Both use it; which of them fails first is a matter of time.
  const bool told = said.all().find("let 'curve' link 'alone'") != std::string::npos ||
                    said.all().find("let 'firing' link 'alone'") != std::string::npos;
  EXPECT_TRUE(told) << said.all();
}

TEST_F(Fortran, TwoTargetsDoNotMakeOneModuleFile) {
  tree.write("alone.f90", "module glaze\nend module\n");
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(model Fortran)\n"
             "set(CMAKE_Fortran_MODULE_DIRECTORY ${CMAKE_BINARY_DIR}/modules)\n"
             "add_library(curve STATIC curve/glaze.f90)\nadd_library(alone STATIC alone.f90)\n");
  for (int i = 0; i < 2; ++i) {
    const auto said = build(1);
    EXPECT_EQ(said.exit, 5);
    EXPECT_NE(said.all().find("modules/glaze.mod is made by two steps"), std::string::npos) << said.all();
    EXPECT_NE(said.all().find("a folder of its own for its modules"), std::string::npos) << said.all();
  }
}

TEST_F(Fortran, OneThatIsPreprocessedByAnOptionIsScannedSo) {
  tree.write("curve/soak.f90",
             "#ifdef NEVER\nmodule soaking\nuse nowhere\nend module\n#endif\n" + tree.read("curve/soak.f90"));
  replace("CMakeLists.txt", "WET)", "WET)\ntarget_compile_options(curve PRIVATE -cpp)");
  const auto said = build();
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_FALSE(files::exists(tree.label_folder() + "/work/.objects/curve/modules/soaking.mod"));
  EXPECT_EQ(nlohmann::json::parse(
                files::read(tree.label_folder() + "/work/.objects/curve/curve/soak.o.modules").value_or("{}"))["uses"],
            std::vector<std::string>{"heat"});
}

TEST_F(Fortran, WarningsAreCounted) {
  replace("curve/soak.f90", "r = x * 2.0", "integer :: idle\n    r = x * 2.0");
  replace("CMakeLists.txt", "WET)", "WET)\ntarget_compile_options(curve PRIVATE -Wall)");
  ASSERT_EQ(build().exit, 0);
  const auto run = tree.record();
  ASSERT_FALSE(run["build"]["warnings"].empty());
  const auto& warning = run["build"]["warnings"][0];
  EXPECT_EQ(warning["place"]["line"], 4);
  EXPECT_EQ(warning["option"], "-Wunused-variable");
}

TEST_F(Fortran, BesideCppItIsLinkedWithItsLibrary) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(model C CXX Fortran)\nadd_library(curve STATIC "
             "curve/glaze.f90 side.f90)\nadd_executable(firing main.cpp)\ntarget_link_libraries(firing curve)\n");
  tree.write("side.f90",
             "real function side(x) bind(c)\n  use glaze\n  real, value :: x\n  print '(a)', 'in Fortran'\n"
             "  side = melt(x)\nend function\n");
  tree.write("main.cpp",
             "#include <iostream>\nextern \"C\" float side(float);\nint main() { std::cout << side(1) << '\\n'; }\n");
  const auto said = build();
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(fired().find("in Fortran"), std::string::npos);
}

class FortranListfile : public DrivenTree {};

TEST_F(FortranListfile, AsksItsCompilerAndTellsCOfItsNames) {
  tree.write(
      "CMakeLists.txt",
      "cmake_minimum_required(VERSION 3.16)\nproject(kiln C Fortran)\ninclude(CheckFortranCompilerFlag)\n"
      "include(CheckFortranSourceCompiles)\ninclude(CheckFortranFunctionExists)\ninclude(FortranCInterface)\n"
      "check_fortran_compiler_flag(-frecursive TAKES)\ncheck_fortran_compiler_flag(-fno-such-heat TAKES_NOT)\n"
      "check_fortran_source_compiles(\"      PROGRAM P\n      END\" FIXED)\n"
      "check_fortran_source_compiles(\"program p\ninteger, allocatable :: a(:)\nend\" FREE SRC_EXT f90)\n"
      "check_fortran_source_compiles(\"this is none\" NONE SRC_EXT f90)\n"
      "check_fortran_function_exists(no_such_routine ROUTINE)\n"
      "FortranCInterface_HEADER(names.h MACRO_NAMESPACE YARD_ SYMBOL_NAMESPACE yard_ SYMBOLS fire clay:wet_clay)\n"
      "if(NOT TAKES OR TAKES_NOT OR NOT FIXED OR NOT FREE OR NONE OR ROUTINE)\n"
      "  message(FATAL_ERROR \"${TAKES} ${TAKES_NOT} ${FIXED} ${FREE} ${NONE} ${ROUTINE}\")\nendif()\n"
      "add_executable(kiln kiln.c clay.f90)\n"
      "target_include_directories(kiln PRIVATE ${CMAKE_CURRENT_BINARY_DIR})\n");
  tree.write("clay.f90",
             "module clay\ncontains\nsubroutine wet_clay()\nprint '(a)', 'wet'\nend subroutine\nend module\n"
             "subroutine fire()\nprint '(a)', 'fired'\nend subroutine\n");
  tree.write("kiln.c",
             "#include \"names.h\"\nvoid yard_fire(void);\nvoid yard_clay_wet_clay(void);\n"
             "int main(void) { yard_clay_wet_clay(); yard_fire(); return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "wet\nfired\n");
}

// A library for several processes in a prefix, with a wrapper of the compiler that tells what it adds.
TEST_F(FortranListfile, WrappersAreAskedWhatTheyAdd) {
  const std::string prefix = tree.scratch() + "/prefix";
  files::write(prefix + "/include/mpi.h", "int mpi_of_the_yard(void);\n");
  files::write(prefix + "/clay.f90",
               "module mpi\ncontains\ninteger function many()\nmany = 4\nend function\nend module\n");
  files::make_folder(prefix + "/lib");
  files::make_folder(prefix + "/modules");
  Command command;
  command.argv = {"gfortran",          "-shared", "-fPIC", "-J", prefix + "/modules", "-o", prefix + "/lib/libmpi.so",
                  prefix + "/clay.f90"};
  ASSERT_TRUE(coctilis::run(command).good());
  files::write(prefix + "/bin/mpif90", "#!/bin/sh\ncase $1 in --showme:compile) echo -I" + prefix +
                                           "/modules ;; --showme:link) echo -L" + prefix + "/lib -Wl,-rpath," + prefix +
                                           "/lib -lmpi ;; esac\n");
  std::filesystem::permissions(prefix + "/bin/mpif90", std::filesystem::perms::all);
  tree.write("kiln.f90", "program kiln\nuse mpi\nprint '(i0)', many()\nend program\n");
  tree.write(
      "CMakeLists.txt",
      "cmake_minimum_required(VERSION 3.16)\nproject(kiln C Fortran)\nfind_package(MPI REQUIRED COMPONENTS Fortran)\n"
      "if(NOT MPI_Fortran_FOUND)\n  message(FATAL_ERROR none)\nendif()\nadd_executable(kiln kiln.f90)\n"
      "target_link_libraries(kiln MPI::MPI_Fortran)\n");
  const auto described = run("bringup", {"--with", prefix});
  ASSERT_EQ(described.exit, 0) << described.all();
  EXPECT_EQ(said_by("kiln"), "4\n");
  // From the source alone the same.
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  const auto found = run("build", {"--with", prefix});
  ASSERT_EQ(found.exit, 0) << found.all();
  EXPECT_EQ(said_by("kiln"), "4\n");
}

}  // namespace
}  // namespace coctilis::test
