// What targets are compiled and linked with, down to the words of the commands.
#include "plan/planning.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

class TargetsTest : public PlanTest {
 protected:
  void SetUp() override { sources({"a.c", "b.c", "c.c", "m.c", "x.cpp", "y.cpp"}); }
  // The parts in this order, with anything between them.
  static testing::AssertionResult in_order(const std::string& text, const Words& parts) {
    std::size_t at = 0;
    for (const auto& part : parts) {
      const auto found = text.find(part, at);
      if (found == std::string::npos) return testing::AssertionFailure() << "'" << part << "' is not behind in" << text;
      at = found + 1;
    }
    return testing::AssertionSuccess();
  }
  static std::string link(const model::Plan& made, const std::string& name) {
    return command(made, name, model::StepKind::link);
  }
};

// ---- what counts for a folder --------------------------------------------------------------------------------------

TEST_F(TargetsTest, AFolderIsHandedOnWithItsTargets) {
  sources({"znz/z.c", "a.c"});
  reading_.tree.write("znz/CMakeLists.txt", "add_library(znz STATIC z.c)\n");
  const auto made = plan(
      "set(CMAKE_INCLUDE_CURRENT_DIR_IN_INTERFACE ON)\nadd_subdirectory(znz)\nadd_executable(a a.c)\n"
      "target_link_libraries(a znz)\n");
  HAS(command(made, "a.c"), " -I" + tree("znz") + " ");
  HAS_NOT(command(made, "znz/z.c"), " -I" + tree("znz") + " ");
}

TEST_F(TargetsTest, OptionsOfAFolderCountForTargetsThatComeLater) {
  const auto made = plan(
      "add_executable(before a.c)\nadd_compile_options(-fno-common)\nadd_link_options(-Wl,--trace)\n"
      "add_executable(after b.c)\n");
  HAS_NOT(command(made, "a.c"), "-fno-common");
  HAS_NOT(link(made, "before"), "--trace");
  HAS(command(made, "b.c"), " -fno-common ");
  HAS(link(made, "after"), " -Wl,--trace ");
}

TEST_F(TargetsTest, FoldersAndDefinitionsCountForTargetsThatAreThereToo) {
  const auto made = plan("add_executable(before a.c)\ninclude_directories(inc)\nadd_definitions(-DFIRE=1)\n");
  HAS(command(made, "a.c"), " -I" + tree("inc") + " ");
  HAS(command(made, "a.c"), " -DFIRE=1 ");
}

TEST_F(TargetsTest, LibrariesOfAFolderAreLinkedByWhatComesLater) {
  const auto made = plan("add_executable(before a.c)\nlink_libraries(m)\nadd_executable(after b.c)\n");
  EXPECT_EQ(made.target("before")->link_items, Words{});
  EXPECT_EQ(made.target("after")->link_items, Words{"-lm"});
}

TEST_F(TargetsTest, LibrariesOfAFolderComeAgainBehindAnArchiveThatNeedsThem) {
  const auto made = plan(
      "link_libraries(m z)\nadd_library(clay STATIC b.c)\nadd_executable(kiln a.c)\n"
      "target_link_libraries(kiln clay)\n");
  EXPECT_TRUE(in_order(link(made, "kiln"), {"-lm", "-lz", "libclay.a", "-lm", "-lz"}));
}

TEST_F(TargetsTest, LibrariesOfAFolderReachItsSubfolders) {
  reading_.tree.write("sub/CMakeLists.txt", "link_libraries(z)\nadd_executable(inner s.c)\n");
  sources({"sub/s.c"});
  const auto made = plan("link_libraries(\"-lrt -lm\")\nadd_subdirectory(sub)\nadd_executable(outer a.c)\n");
  EXPECT_EQ(made.target("inner")->link_items, (Words{"-lrt", "-lm", "-lz"}));
  EXPECT_EQ(made.target("outer")->link_items, (Words{"-lrt", "-lm"}));
}

TEST_F(TargetsTest, LibrariesMayCountForOneConfiguration) {
  const auto made = plan(
      "link_libraries(debug d1 optimized o1 general g1)\nadd_executable(kiln a.c)\n"
      "target_link_libraries(kiln debug d2 optimized o2 g2)\n");
  EXPECT_EQ(made.target("kiln")->link_items, (Words{"-lo1", "-lg1", "-lo2", "-lg2"}));
}

TEST_F(TargetsTest, SubfoldersTakeOver) {
  reading_.tree.write("sub/CMakeLists.txt",
                      "add_definitions(-DSUB)\ninclude_directories(own)\nadd_executable(inner s.c)\n");
  sources({"sub/s.c"});
  const auto made =
      plan("add_definitions(-DTOP)\ninclude_directories(inc)\nadd_subdirectory(sub)\nadd_executable(outer a.c)\n");
  const auto inner = command(made, "sub/s.c");
  HAS(inner, " -DTOP ");
  HAS(inner, " -DSUB ");
  EXPECT_TRUE(in_order(inner, {" -I" + tree("inc") + " ", " -I" + tree("sub/own") + " "}));
  HAS_NOT(command(made, "a.c"), "-DSUB");
}

// ---- order of folders and options ----------------------------------------------------------------------------------

TEST_F(TargetsTest, FoldersInTheirOrder) {
  const auto made = plan(
      "add_library(lib STATIC b.c)\ntarget_include_directories(lib PUBLIC fromlib)\n"
      "include_directories(dir)\nadd_executable(x a.c)\ntarget_include_directories(x PRIVATE own)\n"
      "target_include_directories(x BEFORE PRIVATE first)\ntarget_include_directories(x SYSTEM PRIVATE sys)\n"
      "target_link_libraries(x PRIVATE lib)\n");
  EXPECT_TRUE(
      in_order(command(made, "a.c"), {" -I" + tree("first") + " ", " -I" + tree("dir") + " ", " -I" + tree("own") + " ",
                                      " -I" + tree("fromlib") + " ", " -isystem " + tree("sys") + " "}));
}

TEST_F(TargetsTest, FlagsOfVariablesComeBeforeOptions) {
  const auto made = plan(
      "set(CMAKE_C_FLAGS \"-fany -fflags\")\nset(CMAKE_C_FLAGS_RELEASE \"-O1\")\nadd_executable(x a.c)\n"
      "target_compile_options(x PRIVATE -fown -O3)\n");
  EXPECT_TRUE(in_order(command(made, "a.c"), {" -fany ", " -fflags ", " -O1 ", " -fown ", " -O3 "}));
  HAS_NOT(command(made, "a.c"), "-DNDEBUG");
}

TEST_F(TargetsTest, OptionsAreNotRepeatedButForThoseThatWantToBe) {
  const auto made = plan(
      "add_executable(x a.c)\ntarget_compile_options(x PRIVATE -fone -fone \"SHELL:-Xfoo bar\" \"SHELL:-Xfoo baz\")\n");
  const auto c = command(made, "a.c");
  EXPECT_EQ(c.find("-fone"), c.rfind("-fone"));
  EXPECT_TRUE(in_order(c, {" -Xfoo bar ", " -Xfoo baz "}));
}

// ---- what is handed on ---------------------------------------------------------------------------------------------

TEST_F(TargetsTest, PrivateThingsOfAnArchiveAreLinkedButNotSeen) {
  const auto made = plan(
      "add_library(deep STATIC c.c)\ntarget_include_directories(deep PUBLIC deepinc)\n"
      "target_compile_definitions(deep PUBLIC DEEP)\nadd_library(mid STATIC b.c)\n"
      "target_link_libraries(mid PRIVATE deep)\nadd_executable(x a.c)\ntarget_link_libraries(x PRIVATE mid)\n");
  HAS(command(made, "b.c"), " -DDEEP ");
  HAS_NOT(command(made, "a.c"), "DEEP");
  HAS_NOT(command(made, "a.c"), "deepinc");
  EXPECT_EQ(made.target("x")->link_items, (Words{work("libmid.a"), work("libdeep.a")}));
}

TEST_F(TargetsTest, PrivateThingsOfASharedLibraryAreNotLinked) {
  const auto made = plan(
      "add_library(deep SHARED c.c)\nadd_library(mid SHARED b.c)\ntarget_link_libraries(mid PRIVATE deep)\n"
      "add_executable(x a.c)\ntarget_link_libraries(x PRIVATE mid)\n");
  EXPECT_EQ(made.target("x")->link_items, Words{work("libmid.so")});
  // The linker has to find it all the same.
  HAS(link(made, "x"), "-Wl,-rpath-link,");
}

TEST_F(TargetsTest, InterfaceLibrariesOnlyHandOn) {
  const auto made = plan(
      "add_library(all INTERFACE)\ntarget_link_libraries(all INTERFACE m)\n"
      "target_compile_definitions(all INTERFACE A \"B=\\\"two words\\\"\")\ntarget_compile_options(all INTERFACE "
      "-fall)\n"
      "target_sources(all INTERFACE ${CMAKE_CURRENT_SOURCE_DIR}/b.c)\n"
      "add_executable(x a.c)\ntarget_link_libraries(x all)\n");
  const auto c = command(made, "a.c");
  HAS(c, " -DA ");
  HAS(c, " '-DB=\"two words\"' ");
  HAS(c, " -fall ");
  EXPECT_NE(step(made, "b.c"), nullptr);
  EXPECT_EQ(made.target("x")->link_items, Words{"-lm"});
}

TEST_F(TargetsTest, ObjectLibraries) {
  const auto made = plan(
      "add_library(objs OBJECT b.c c.c)\ntarget_compile_definitions(objs PUBLIC OBJS PRIVATE OWN)\n"
      "add_executable(x a.c $<TARGET_OBJECTS:objs>)\nadd_executable(y m.c)\ntarget_link_libraries(y objs)\n");
  for (const char* name : {"x", "y"}) {
    HAS(link(made, name), "b.o ");
    HAS(link(made, name), "c.o ");
  }
  HAS_NOT(command(made, "a.c"), "-DOBJS");  // only its objects were taken
  HAS(command(made, "m.c"), " -DOBJS ");
  HAS_NOT(command(made, "m.c"), "-DOWN");
}

TEST_F(TargetsTest, ImportedLibraries) {
  reading_.tree.write("pre/libclay.a", "!<arch>\n");
  reading_.tree.write("pre/libclayd.a", "!<arch>\n");
  const auto made = plan(
      "add_library(clay STATIC IMPORTED)\nset_target_properties(clay PROPERTIES\n"
      "  IMPORTED_LOCATION ${CMAKE_SOURCE_DIR}/pre/libclay.a IMPORTED_LOCATION_DEBUG "
      "${CMAKE_SOURCE_DIR}/pre/libclayd.a\n"
      "  INTERFACE_INCLUDE_DIRECTORIES ${CMAKE_SOURCE_DIR}/pre INTERFACE_LINK_LIBRARIES m)\n"
      "add_executable(x a.c)\ntarget_link_libraries(x clay)\n");
  EXPECT_EQ(made.target("x")->link_items, (Words{tree("pre/libclay.a"), "-lm"}));
  HAS(command(made, "a.c"), " -isystem " + tree("pre") + " ");
}

TEST_F(TargetsTest, LinkOptionsAreHandedOn) {
  const auto made = plan(
      "add_library(lib STATIC b.c)\ntarget_link_options(lib INTERFACE -Wl,--handed PRIVATE -Wl,--kept)\n"
      "target_link_directories(lib INTERFACE ldir)\n"
      "add_executable(x a.c)\ntarget_link_libraries(x lib)\nset_target_properties(x PROPERTIES LINK_FLAGS \"-Wl,--old "
      "-s\")\n");
  const auto l = link(made, "x");
  HAS(l, " -Wl,--handed ");
  HAS(l, " -L" + tree("ldir") + " ");
  HAS(l, " -Wl,--old -s ");
  HAS_NOT(l, "--kept");
}

TEST_F(TargetsTest, KeywordsOfConfigurations) {
  const auto made =
      plan("add_executable(x a.c)\ntarget_link_libraries(x debug onlydebug optimized onlyfast general both)\n");
  EXPECT_EQ(made.target("x")->link_items, (Words{"-lonlyfast", "-lboth"}));
}

// ---- names and places ----------------------------------------------------------------------------------------------

TEST_F(TargetsTest, NamesOfResults) {
  const auto made = plan(
      "add_library(a STATIC a.c)\nset_target_properties(a PROPERTIES OUTPUT_NAME red PREFIX p SUFFIX .arc)\n"
      "add_library(b SHARED b.c)\nset_target_properties(b PROPERTIES VERSION 1.2.3 SOVERSION 1)\n"
      "add_library(c MODULE c.c)\nset_target_properties(c PROPERTIES PREFIX \"\" LIBRARY_OUTPUT_DIRECTORY "
      "${CMAKE_BINARY_DIR}/plug)\n"
      "add_executable(m m.c)\nset_target_properties(m PROPERTIES OUTPUT_NAME kiln RUNTIME_OUTPUT_DIRECTORY "
      "${CMAKE_BINARY_DIR}/run SUFFIX .x)\n");
  EXPECT_EQ(made.target("a")->output, work("pred.arc"));
  EXPECT_EQ(made.target("b")->output, work("libb.so.1.2.3"));
  EXPECT_EQ(made.target("b")->shared_name, "libb.so.1");
  EXPECT_EQ(made.target("c")->output, work("plug/c.so"));
  HAS_NOT(link(made, "plug/c.so"), "-soname");
  EXPECT_EQ(made.target("m")->output, work("run/kiln.x"));
}

TEST_F(TargetsTest, VariablesNameResultsAtTheEndOfTheirFolder) {
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_library(b SHARED b.c)\nadd_library(c MODULE c.c)\nadd_executable(m m.c)\n"
      "add_library(d SHARED a.c)\nset_target_properties(d PROPERTIES PREFIX lib)\n"
      "set(CMAKE_STATIC_LIBRARY_SUFFIX .arc)\nset(CMAKE_SHARED_LIBRARY_PREFIX \"\")\nset(CMAKE_SHARED_MODULE_SUFFIX "
      ".plug)\n"
      "set(CMAKE_EXECUTABLE_SUFFIX .x)\n");
  EXPECT_EQ(made.target("a")->output, work("liba.arc"));
  EXPECT_EQ(made.target("b")->output, work("b.so"));
  EXPECT_EQ(made.target("b")->shared_name, "b.so");
  EXPECT_EQ(made.target("c")->output, work("libc.plug"));
  EXPECT_EQ(made.target("d")->output, work("libd.so"));
  EXPECT_EQ(made.target("m")->output, work("m.x"));
}

TEST_F(TargetsTest, VariablesSetWhatTargetsBeginWith) {
  const auto made = plan(
      "set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)\nset(CMAKE_ARCHIVE_OUTPUT_DIRECTORY "
      "${CMAKE_BINARY_DIR}/lib)\n"
      "set(CMAKE_POSITION_INDEPENDENT_CODE ON)\nset(CMAKE_C_VISIBILITY_PRESET hidden)\nset(CMAKE_C_STANDARD 99)\n"
      "set(CMAKE_C_EXTENSIONS OFF)\nadd_library(a STATIC a.c)\nadd_executable(b b.c)\nadd_library(s SHARED c.c)\n");
  EXPECT_EQ(made.target("a")->output, work("lib/liba.a"));
  EXPECT_EQ(made.target("b")->output, work("bin/b"));
  HAS(command(made, "a.c"), " -fPIC ");
  HAS(command(made, "b.c"), " -fPIE ");
  HAS(command(made, "c.c"), " -fvisibility=hidden ");
  HAS(command(made, "a.c"), " -std=c99 ");
}

TEST_F(TargetsTest, NamesAndFoldersOfResultsMayBeExpressions) {
  const auto made = plan(
      "set(CMAKE_RUNTIME_OUTPUT_DIRECTORY $<1:${CMAKE_BINARY_DIR}/bin/$<LOWER_CASE:$<CONFIG>>>)\n"
      "add_executable(b b.c)\nset_target_properties(b PROPERTIES OUTPUT_NAME kiln$<$<CONFIG:Debug>:_d>)\n"
      "add_library(s SHARED c.c)\nset_target_properties(s PROPERTIES OUTPUT_NAME $<TARGET_PROPERTY:s,MARK>-clay MARK "
      "x)\n");
  EXPECT_EQ(made.target("b")->output, work("bin/release/kiln"));
  EXPECT_EQ(made.target("s")->output, work("libx-clay.so"));
  const auto problem = refused(
      "add_executable(b b.c)\nadd_executable(c c.c)\n"
      "set_target_properties(b PROPERTIES OUTPUT_NAME $<TARGET_FILE_NAME:c>)\n");
  EXPECT_EQ(problem.exit, Exit::description);
  HAS(problem.what, "hangs on that of 'c'");
}

TEST_F(TargetsTest, OlderVariablesForFoldersOfResults) {
  const auto made = plan(
      "set(EXECUTABLE_OUTPUT_PATH ${CMAKE_BINARY_DIR}/old)\nset(LIBRARY_OUTPUT_PATH ${CMAKE_BINARY_DIR}/oldlib)\n"
      "add_executable(a a.c)\nadd_library(s SHARED c.c)\nadd_library(t STATIC b.c)\n"
      "set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/bin)\nadd_executable(m m.c)\n"
      "set(CMAKE_RUNTIME_OUTPUT_DIRECTORY_RELEASE ${CMAKE_BINARY_DIR}/fast)\nset(CMAKE_RELEASE_POSTFIX _r)\n"
      "add_executable(x x.cpp)\nadd_library(y STATIC y.cpp)\n");
  EXPECT_EQ(made.target("a")->output, work("old/a"));
  EXPECT_EQ(made.target("s")->output, work("oldlib/libs.so"));
  EXPECT_EQ(made.target("t")->output, work("oldlib/libt.a"));
  EXPECT_EQ(made.target("m")->output, work("bin/m"));
  EXPECT_EQ(made.target("x")->output, work("fast/x"));
  EXPECT_EQ(made.target("y")->output, work("oldlib/liby_r.a"));
}

TEST_F(TargetsTest, TheSameNameMayBeAProgramAndALibrary) {
  const auto made = plan(
      "add_library(kiln_lib STATIC a.c)\nset_target_properties(kiln_lib PROPERTIES OUTPUT_NAME kiln)\n"
      "add_executable(kiln m.c)\ntarget_link_libraries(kiln kiln_lib)\n");
  EXPECT_EQ(made.target("kiln_lib")->output, work("libkiln.a"));
  EXPECT_EQ(made.target("kiln")->output, work("kiln"));
}

// ---- sources -------------------------------------------------------------------------------------------------------

TEST_F(TargetsTest, SourcesHavePropertiesOfTheirOwn) {
  const auto made = plan(
      "add_executable(x a.c b.c x.cpp)\nset_source_files_properties(a.c PROPERTIES COMPILE_FLAGS \"-fa -fb\" "
      "COMPILE_DEFINITIONS \"ONE;TWO=2\")\n"
      "set_source_files_properties(b.c PROPERTIES LANGUAGE CXX)\nset_property(SOURCE x.cpp APPEND PROPERTY "
      "INCLUDE_DIRECTORIES inc)\n"
      "set_property(SOURCE x.cpp PROPERTY COMPILE_OPTIONS -fown)\n");
  EXPECT_TRUE(in_order(command(made, "a.c"), {" -DONE ", " -DTWO=2 "}));
  HAS(command(made, "a.c"), " -fa -fb ");
  HAS(command(made, "b.c"), "++ ");
  HAS(command(made, "b.c"), " -x c++ ");
  HAS(command(made, "x.cpp"), " -I" + tree("inc") + " ");
  HAS(command(made, "x.cpp"), " -fown ");
  HAS_NOT(command(made, "a.c"), "-fown");
}

TEST_F(TargetsTest, HeadersAndOthersAreNotCompiled) {
  sources({"h.h", "note.txt"});
  const auto made = plan(
      "add_executable(x a.c h.h note.txt)\nset_source_files_properties(b.c PROPERTIES HEADER_FILE_ONLY ON)\n"
      "target_sources(x PRIVATE b.c)\n");
  EXPECT_EQ(made.target("x")->sources, 1U) << made.target("x")->sources;
  EXPECT_EQ(step(made, "b.c"), nullptr);
}

TEST_F(TargetsTest, SourcesAddedElsewhereCountFromThere) {
  reading_.tree.write("sub/CMakeLists.txt", "target_sources(x PRIVATE s.c)\n");
  sources({"sub/s.c"});
  const auto made = plan("add_executable(x a.c)\nadd_subdirectory(sub)\n");
  EXPECT_NE(step(made, "sub/s.c"), nullptr);
}

TEST_F(TargetsTest, ExpressionsKnowTheLanguage) {
  const auto made = plan(
      "add_executable(x a.c x.cpp)\ntarget_compile_options(x PRIVATE $<$<COMPILE_LANGUAGE:C>:-fonlyc> "
      "$<$<COMPILE_LANGUAGE:CXX>:-fonlycxx> $<$<C_COMPILER_ID:GNU,Clang>:-fgcc>)\n"
      "target_compile_definitions(x PRIVATE $<$<COMPILE_LANGUAGE:CXX>:CPP> CFG=$<CONFIG>)\n");
  HAS(command(made, "a.c"), " -fonlyc ");
  HAS_NOT(command(made, "a.c"), "-fonlycxx");
  HAS(command(made, "x.cpp"), " -fonlycxx ");
  HAS(command(made, "x.cpp"), " -DCPP ");
  HAS(command(made, "a.c"), " -DCFG=Release ");
}

TEST_F(TargetsTest, StandardsTheHigherOneCounts) {
  const auto made = plan(
      "add_library(lib STATIC y.cpp)\ntarget_compile_features(lib PUBLIC cxx_std_20)\n"
      "add_executable(x x.cpp)\nset_property(TARGET x PROPERTY CXX_STANDARD 11)\ntarget_link_libraries(x lib)\n");
  HAS(command(made, "x.cpp"), " -std=gnu++20 ");
}

// ---- rules and steps -----------------------------------------------------------------------------------------------

TEST_F(TargetsTest, RulesOfATargetRunBeforeAndAfterLinking) {
  const auto made = plan(
      "add_executable(x a.c)\nadd_custom_command(TARGET x PRE_LINK COMMAND first $<TARGET_FILE:x>)\n"
      "add_custom_command(TARGET x POST_BUILD COMMAND last $<TARGET_FILE_NAME:x> COMMAND really)\n");
  const auto l = link(made, "x");
  EXPECT_TRUE(in_order(l, {" first " + work("x") + " ", " -o " + work("x") + " ", " last x ", " really "}));
}

TEST_F(TargetsTest, WhatIsSaidOfASourceCountsForTheOneThatIsMade) {
  const auto made = plan(
      "add_custom_command(OUTPUT cone.tab.c COMMAND gen)\n"
      "set_source_files_properties(cone.tab.c PROPERTIES COMPILE_FLAGS \"-I ${CMAKE_CURRENT_SOURCE_DIR}\" GENERATED "
      "1)\n"
      "add_executable(kiln a.c cone.tab.c)\n");
  const auto said = command(made, "cone.tab.c");
  HAS(said, " -I " + tree() + " ");
  HAS(said, work("cone.tab.c"));
  HAS_NOT(command(made, "a.c"), " -I " + tree());
}

TEST_F(TargetsTest, WhatIsSaidBySeveralNamesOfASourceIsJoined) {
  const auto made = plan(
      "set(out ${CMAKE_CURRENT_BINARY_DIR}/cone.tab.c)\nadd_custom_command(OUTPUT ${out} COMMAND gen)\n"
      "set_source_files_properties(${out} PROPERTIES GENERATED TRUE)\n"
      "set_source_files_properties(cone.tab.c PROPERTIES COMPILE_DEFINITIONS CONE=6)\n"
      "add_executable(kiln a.c cone.tab.c)\n");
  HAS(command(made, "cone.tab.c"), " -DCONE=6 ");
}

TEST_F(TargetsTest, APathThatBeginsLikeOneThatIsSentElsewhereIsAnother) {
  sources({"man/kiln.8.xml"});
  const auto made = plan(
      "add_custom_command(OUTPUT ${CMAKE_SOURCE_DIR}/man/kiln.8\n"
      "  COMMAND page ${CMAKE_SOURCE_DIR}/man/kiln.8.xml -o ${CMAKE_SOURCE_DIR}/man/kiln.8)\n"
      "add_custom_target(man ALL DEPENDS ${CMAKE_SOURCE_DIR}/man/kiln.8)\n");
  const auto said = command(made, ".tree/man/kiln.8", model::StepKind::generate);
  HAS(said, " " + tree("man/kiln.8.xml") + " -o " + work(".tree/man/kiln.8"));
}

TEST_F(TargetsTest, RulesThatCannotBeFollowedStopOnlyWhatNeedsThem) {
  const std::string rule =
      "add_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/book.html COMMAND make html)\nadd_executable(kiln a.c)\n";
  const auto made = plan(rule + "add_custom_target(book DEPENDS ${CMAKE_BINARY_DIR}/book.html)\n");
  HAS(command(made, "book.html", model::StepKind::generate), "refuse ");
  EXPECT_FALSE(step(made, "book.html")->in_default);
  const auto problem = refused(rule + "add_custom_target(book ALL DEPENDS ${CMAKE_BINARY_DIR}/book.html)\n");
  EXPECT_EQ(problem.exit, Exit::description);
  HAS(problem.what, "'make', a build program of its own");
}

TEST_F(TargetsTest, WhatOneSourceWaitsForIsThereBeforeAnythingIsCompiled) {
  const auto made = plan(
      "add_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/gen.h ${CMAKE_BINARY_DIR}/gen.list COMMAND gen)\n"
      "set_source_files_properties(a.c PROPERTIES OBJECT_DEPENDS ${CMAKE_BINARY_DIR}/gen.list)\n"
      "add_executable(x a.c b.c)\nadd_executable(y m.c)\n");
  const auto has = [](const Words& words, const std::string& word) {
    return std::find(words.begin(), words.end(), word) != words.end();
  };
  EXPECT_TRUE(has(step(made, "a.c")->inputs, work("gen.list")));
  EXPECT_TRUE(has(step(made, "b.c")->after, work("gen.list")));
  EXPECT_FALSE(has(step(made, "m.c")->after, work("gen.list")));
}

TEST_F(TargetsTest, GeneratedHeadersAreThereBeforeAnythingIsCompiled) {
  const auto made = plan(
      "add_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/gen.h COMMAND gen DEPENDS b.c)\n"
      "add_executable(x a.c ${CMAKE_BINARY_DIR}/gen.h)\nadd_custom_target(maker DEPENDS ${CMAKE_BINARY_DIR}/gen.h)\n"
      "add_executable(y m.c)\nadd_dependencies(y maker)\n");
  const auto waits_for = [&](const char* subject, const std::string& path) {
    const auto* one = step(made, subject);
    return one != nullptr && (std::find(one->after.begin(), one->after.end(), path) != one->after.end() ||
                              std::find(one->inputs.begin(), one->inputs.end(), path) != one->inputs.end());
  };
  EXPECT_TRUE(waits_for("a.c", work("gen.h")));
  ASSERT_NE(step(made, "m.c"), nullptr);
  EXPECT_FALSE(step(made, "m.c")->after.empty() && step(made, "m.c")->inputs.size() == 1);
}

TEST_F(TargetsTest, ProgramsOfTheTreeCanBeRunByRules) {
  const auto made = plan(
      "add_executable(gen m.c)\nadd_custom_command(OUTPUT out.c COMMAND gen -o out.c a.in DEPENDS a.in)\n"
      "add_executable(x a.c out.c)\n");
  // The file that the rule asks for is not there: that is told with its place.
  const auto problem = refused("add_executable(x a.c nowhere.c)\n");
  EXPECT_EQ(problem.place.line, 3);
  HAS(problem.what + problem.cause, "nowhere.c");
  bool found = false;
  for (const auto& one : made.steps) {
    for (const auto& action : one.actions)
      found = found || (!action.argv.empty() && action.argv.front() == work("gen"));
  }
  EXPECT_TRUE(found);
}

TEST_F(TargetsTest, WhatNobodyAsksForIsNotMadeByDefault) {
  const auto made = plan(
      "add_executable(x a.c)\nadd_executable(extra EXCLUDE_FROM_ALL b.c)\nadd_custom_target(docs COMMAND doc)\n"
      "add_custom_target(always ALL COMMAND stamp)\n");
  EXPECT_TRUE(made.target("x")->in_default);
  EXPECT_FALSE(made.target("extra")->in_default);
  ASSERT_NE(step(made, "b.c"), nullptr);
  EXPECT_FALSE(step(made, "b.c")->in_default);
}

// ---- files that are written once all is known ----------------------------------------------------------------------

TEST_F(TargetsTest, GeneratedFilesForEachLanguage) {
  const auto made = plan(
      "add_executable(x a.c x.cpp)\nfile(GENERATE OUTPUT opts-$<COMPILE_LANGUAGE>.txt CONTENT \"$<COMPILE_LANGUAGE> "
      "$<TARGET_PROPERTY:NAME>\" TARGET x)\nfile(GENERATE OUTPUT same.txt CONTENT "
      "\"$<IF:$<COMPILE_LANGUAGE:C>,x,x>\")\n");
  std::map<std::string, std::string> all;
  for (const auto& file : made.files)
    all[files::below(file.path, work("").substr(0, work("").size() - 1))] = file.content;
  EXPECT_EQ(all["opts-C.txt"], "C x");
  EXPECT_EQ(all["opts-CXX.txt"], "CXX x");
  EXPECT_EQ(all["same.txt"], "x");
  HAS(refused("file(GENERATE OUTPUT two.txt CONTENT \"$<COMPILE_LANGUAGE>\")\n").what, "two texts");
  HAS(refused("file(GENERATE OUTPUT $<1:/out.txt> CONTENT \"x\")\n").what, "outside its output folder");
}

}  // namespace
}  // namespace coctilis::test
