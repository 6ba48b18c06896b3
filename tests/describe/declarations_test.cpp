// Targets, properties, files, packages and modules: what a description declares.
#include <fcntl.h>
#include <sys/stat.h>

#include "describe/reader.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

using Said2 = Saying;
class Declarations : public testing::TestWithParam<Said2> {};

TEST_P(Declarations, Say) {
  Reading reading;
  reading.tree.write("a.c", "int a;\n");
  reading.tree.write("sub/CMakeLists.txt",
                     "set(HERE ${CMAKE_CURRENT_SOURCE_DIR})\nset(UP 1 PARENT_SCOPE)\nadd_library(sub STATIC ../a.c)\n");
  reading.tree.write("data.txt", "clay;1\nglaze 2\n\nfire\n");
  EXPECT_EQ(
      reading.says(GetParam().text, "cmake_minimum_required(VERSION 3.16)\nproject(yard VERSION 2.4.1 LANGUAGES C)\n"),
      GetParam().says);
}

INSTANTIATE_TEST_SUITE_P(
    Projects, Declarations,
    testing::Values(
        Said2{
            "Version",
            "message(STATUS ${PROJECT_NAME} ${PROJECT_VERSION_MAJOR} ${yard_VERSION_PATCH} ${CMAKE_PROJECT_VERSION})\n",
            {"yard212.4.1"}},
        Said2{"Compiler",
              "message(STATUS ${CMAKE_C_COMPILER_ID} ${CMAKE_SIZEOF_VOID_P} ${CMAKE_SYSTEM_NAME} "
              "${UNIX})\nif(CMAKE_CXX_COMPILER)\nmessage(STATUS no)\nendif()\n",
              {"GNU8Linux1"}},
        Said2{"Subfolder",
              "add_subdirectory(sub)\nmessage(STATUS \"${HERE}|${UP}\")\nget_target_property(A sub "
              "TYPE)\nmessage(STATUS ${A})\n",
              {"|1", "STATIC_LIBRARY"}},
        Said2{"BuildType",
              "message(STATUS ${CMAKE_BUILD_TYPE})\nset(CMAKE_BUILD_TYPE Debug)\nmessage(STATUS ${CMAKE_BUILD_TYPE})\n",
              {"Release", "Debug"}},
        Said2{"TestingModule", "include(CTest)\nif(BUILD_TESTING)\nmessage(STATUS on)\nendif()\n", {"on"}},
        Said2{"InstallFolders",
              "include(GNUInstallDirs)\nmessage(STATUS ${CMAKE_INSTALL_BINDIR} ${CMAKE_INSTALL_FULL_BINDIR} "
              "${CMAKE_INSTALL_MANDIR})\n",
              {"bin/usr/local/binshare/man"}},
        Said2{"DependentOption",
              "include(CMakeDependentOption)\nset(A ON)\ncmake_dependent_option(B x ON \"A;NOT C\" "
              "OFF)\ncmake_dependent_option(D x ON \"C\" OFF)\nmessage(STATUS ${B} ${D})\n",
              {"ONOFF"}},
        Said2{
            "CheckState",
            "include(CMakePushCheckState)\nset(CMAKE_REQUIRED_FLAGS a)\ncmake_push_check_state(RESET)\nmessage(STATUS "
            "\"<${CMAKE_REQUIRED_FLAGS}>\")\ncmake_pop_check_state()\nmessage(STATUS ${CMAKE_REQUIRED_FLAGS})\n",
            {"<>", "a"}},
        Said2{"IncludeGuard",
              "file(WRITE ${CMAKE_BINARY_DIR}/g.cmake \"include_guard(GLOBAL)\\nmessage(STATUS "
              "once)\\n\")\ninclude(${CMAKE_BINARY_DIR}/g.cmake)\ninclude(${CMAKE_BINARY_DIR}/g.cmake)\n",
              {"once"}},
        Said2{"OptionalInclude",
              "include(nowhere.cmake OPTIONAL RESULT_VARIABLE A)\nmessage(STATUS ${A})\n",
              {"NOTFOUND"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Properties, Declarations,
    testing::Values(
        Said2{
            "SetAndGet",
            "add_library(x a.c)\nset_target_properties(x PROPERTIES A 1 B \"2;3\")\nset_property(TARGET x APPEND "
            "PROPERTY B 4)\nget_target_property(V x B)\nget_target_property(W x NONE)\nmessage(STATUS \"${V} ${W}\")\n",
            {"2;3;4 W-NOTFOUND"}},
        Said2{"InitialFromVariables",
              "set(CMAKE_POSITION_INDEPENDENT_CODE ON)\nadd_library(x a.c)\nget_property(V TARGET x PROPERTY "
              "POSITION_INDEPENDENT_CODE)\nmessage(STATUS ${V})\n",
              {"ON"}},
        Said2{"Global",
              "set_property(GLOBAL PROPERTY BRICKS a b)\nset_property(GLOBAL APPEND PROPERTY BRICKS c)\nget_property(V "
              "GLOBAL PROPERTY BRICKS)\nget_property(S GLOBAL PROPERTY TILES SET)\nmessage(STATUS \"${V} ${S}\")\n",
              {"a;b;c 0"}},
        Said2{"Folder",
              "include_directories(inc)\nget_directory_property(V INCLUDE_DIRECTORIES)\nstring(REGEX REPLACE \".*/\" "
              "\"\" V \"${V}\")\nmessage(STATUS ${V})\n",
              {"inc"}},
        Said2{"Alias",
              "add_library(x a.c)\nadd_library(yard::x ALIAS x)\nget_target_property(V yard::x "
              "ALIASED_TARGET)\nif(TARGET yard::x)\nmessage(STATUS ${V})\nendif()\n",
              {"x"}},
        Said2{"LinkOnly",
              "add_library(x STATIC a.c)\ntarget_link_libraries(x PRIVATE m PUBLIC dl)\nget_target_property(V x "
              "INTERFACE_LINK_LIBRARIES)\nmessage(STATUS \"${V}\")\n",
              {"$<LINK_ONLY:m>;dl"}},
        Said2{"Configurations",
              "add_library(x STATIC a.c)\ntarget_link_libraries(x debug a optimized b c)\nget_target_property(V x "
              "LINK_LIBRARIES)\nmessage(STATUS \"${V}\")\n",
              {"$<$<CONFIG:Debug>:a>;$<$<NOT:$<CONFIG:Debug>>:b>;c"}},
        Said2{"ListsWithinExpressions",
              "add_library(x a.c)\ntarget_compile_options(x PRIVATE $<$<CONFIG:Debug>:-a;-b>)\nget_target_property(V x "
              "COMPILE_OPTIONS)\nmessage(STATUS \"${V}\")\n",
              {"$<$<CONFIG:Debug>:-a;-b>"}},
        Said2{"Sources",
              "add_library(x a.c)\ntarget_sources(x PRIVATE b.c INTERFACE c.c)\nget_target_property(V x "
              "SOURCES)\nmessage(STATUS \"${V}\")\n",
              {"a.c;b.c"}},
        Said2{"SourceFile",
              "set_source_files_properties(a.c PROPERTIES COMPILE_FLAGS -Dx)\nget_source_file_property(V a.c "
              "COMPILE_FLAGS)\nmessage(STATUS ${V})\n",
              {"-Dx"}},
        Said2{"TestProperty",
              "enable_testing()\nadd_test(NAME t COMMAND true)\nset_tests_properties(t PROPERTIES TIMEOUT "
              "3)\nget_test_property(t TIMEOUT V)\nif(TEST t)\nmessage(STATUS ${V})\nendif()\n",
              {"3"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Files, Declarations,
    testing::Values(
        Said2{"ReadAndStrings",
              "file(READ data.txt A)\nstring(LENGTH \"${A}\" N)\nfile(STRINGS data.txt B REGEX \"e\")\nlist(LENGTH B "
              "M)\nmessage(STATUS ${N} \" ${M} ${B}\")\n",
              {"21 2 glaze 2;fire"}},
        Said2{"WriteAppendSize",
              "file(WRITE ${CMAKE_BINARY_DIR}/x a)\nfile(APPEND ${CMAKE_BINARY_DIR}/x bc)\nfile(SIZE "
              "${CMAKE_BINARY_DIR}/x N)\nfile(REMOVE ${CMAKE_BINARY_DIR}/x)\nif(NOT EXISTS "
              "${CMAKE_BINARY_DIR}/x)\nmessage(STATUS ${N})\nendif()\n",
              {"3"}},
        Said2{"CopyToOutput",
              "file(COPY data.txt sub DESTINATION ${CMAKE_BINARY_DIR}/c)\nif(EXISTS "
              "${CMAKE_BINARY_DIR}/c/sub/CMakeLists.txt AND EXISTS ${CMAKE_BINARY_DIR}/c/data.txt)\nmessage(STATUS "
              "y)\nendif()\n",
              {"y"}},
        Said2{"RelativePath", "file(RELATIVE_PATH A /x/y /x/z/w)\nmessage(STATUS ${A})\n", {"../z/w"}},
        Said2{"PathOperations",
              "set(P /kiln/fire.tar.gz)\ncmake_path(GET P STEM A)\ncmake_path(GET P EXTENSION LAST_ONLY "
              "B)\ncmake_path(GET P PARENT_PATH C)\ncmake_path(APPEND C x y)\nmessage(STATUS ${A} ${B} ${C})\n",
              {"fire.gz/kiln/x/y"}},
        Said2{"ToolOperations",
              "execute_process(COMMAND ${CMAKE_COMMAND} -E make_directory "
              "${CMAKE_BINARY_DIR}/d)\nexecute_process(COMMAND ${CMAKE_COMMAND} -E compare_files data.txt a.c "
              "WORKING_DIRECTORY ${CMAKE_SOURCE_DIR} RESULT_VARIABLE R)\nif(IS_DIRECTORY "
              "${CMAKE_BINARY_DIR}/d)\nmessage(STATUS ${R})\nendif()\n",
              {"1"}},
        Said2{"FindInTree",
              "find_path(P data.txt PATHS ${CMAKE_SOURCE_DIR} NO_DEFAULT_PATH)\nfind_file(F data.txt HINTS "
              "${CMAKE_SOURCE_DIR})\nfind_program(G no_such_program_here)\nget_filename_component(P ${P} "
              "NAME)\nget_filename_component(F ${F} NAME)\nmessage(STATUS ${P} ${F} ${G})\n",
              {"treedata.txtG-NOTFOUND"}},
        Said2{"OutputBelongsToTheKiln",
              "configure_file(data.txt data.out COPYONLY)\nif(EXISTS ${CMAKE_BINARY_DIR}/data.out AND NOT EXISTS "
              "${CMAKE_SOURCE_DIR}/data.out)\nmessage(STATUS y)\nendif()\n",
              {"y"}}),
    name_of_saying);

TEST(Packages, PcModulesGiveVariablesAndTargets) {
  Reading reading;
  const std::string prefix = reading.tree.scratch() + "/prefix";
  files::write(prefix + "/lib/pkgconfig/claykit.pc",
               "prefix=" + prefix +
                   "\nkind=red\nName: claykit\nVersion: 2.4\nCflags: -I${prefix}/include -DCLAY\nLibs: -L${prefix}/lib "
                   "-lclaykit\nLibs.private: -lslip\n");
  files::write(prefix + "/lib/pkgconfig/slipkit.pc", "includedir=/slip\nName: slipkit\nVersion: 1.1\nLibs: -lslip\n");
  files::write(prefix + "/lib/libclaykit.so", "");
  reading.settings.prefixes = {prefix};
  const auto says = reading.says(
      "find_package(PkgConfig REQUIRED)\npkg_check_modules(CLAY IMPORTED_TARGET claykit>=2)\npkg_get_variable(KIND "
      "claykit kind)\npkg_check_modules(NONE no_such_module)\n"
      "message(STATUS "
      "\"${CLAY_FOUND}|${CLAY_VERSION}|${CLAY_LIBRARIES}|${CLAY_CFLAGS_OTHER}|${KIND}|${NONE_FOUND}\")\nif(TARGET "
      "PkgConfig::CLAY)\nmessage(STATUS target)\nendif()\n"
      "message(STATUS \"${CLAY_PREFIX}|${CLAY_MODULE_NAME}|${CLAY_STATIC_LIBRARIES}\")\n"
      "pkg_check_modules(BOTH claykit slipkit)\n"
      "message(STATUS "
      "\"${BOTH_claykit_VERSION}|${BOTH_slipkit_VERSION}|${BOTH_VERSION}|${BOTH_slipkit_INCLUDEDIR}\")\n");
  EXPECT_EQ(says, (Words{"1|2.4|claykit|-DCLAY|red|", "target", prefix + "|claykit|claykit;slip", "2.4|1.1||/slip"}));
}

TEST(Packages, FindFileOfTheTreeIsUsedFirst) {
  Reading reading;
  reading.tree.write(
      "cmake/FindClayKit.cmake",
      "find_path(CLAY_INCLUDE clay.h PATHS "
      "${CMAKE_SOURCE_DIR}/inc)\ninclude(FindPackageHandleStandardArgs)\nfind_package_handle_standard_args(ClayKit "
      "REQUIRED_VARS CLAY_INCLUDE)\n");
  const char* const text =
      "list(APPEND CMAKE_MODULE_PATH ${CMAKE_SOURCE_DIR}/cmake)\nfind_package(ClayKit)\nmessage(STATUS "
      "${ClayKit_FOUND})\n";
  EXPECT_EQ(reading.says(text), Words{"FALSE"});
  reading.tree.write("inc/clay.h", "");
  EXPECT_EQ(reading.says(text), Words{"TRUE"});
}

TEST(Packages, VersionThatDoesNotDoIsToldWithWhatIsThere) {
  Reading reading;
  const auto project = reading.read("find_package(ZLIB 99 REQUIRED)\n");
  ASSERT_TRUE(project.ok());
  const auto& findings = project->findings;
  const auto it =
      std::find_if(findings.begin(), findings.end(), [](const auto& f) { return f.requirement.name == "zlib"; });
  ASSERT_NE(it, findings.end());
  EXPECT_FALSE(it->found);
  EXPECT_NE(it->reason.find("99"), std::string::npos);
}

TEST(Modules, ExportHeaderFollowsTheKindOfLibrary) {
  Reading reading;
  reading.tree.write("a.c", "");
  ASSERT_TRUE(reading
                  .read("include(GenerateExportHeader)\nadd_library(clay SHARED "
                        "a.c)\ngenerate_export_header(clay)\nadd_library(mud STATIC a.c)\ngenerate_export_header(mud "
                        "EXPORT_FILE_NAME m/e.h)\n")
                  .ok());
  const std::string work = reading.tree.kiln() + "/work/";
  EXPECT_NE(files::read(work + "clay_export.h")->find("visibility(\"default\")"), std::string::npos);
  EXPECT_EQ(files::read(work + "m/e.h")->find("visibility"), std::string::npos);
}

TEST(Modules, VersionFileIsReadBackByFindPackage) {
  Reading reading;
  ASSERT_TRUE(reading
                  .read("include(CMakePackageConfigHelpers)\nset(PROJECT_VERSION "
                        "3.2.1)\nwrite_basic_package_version_file(${CMAKE_BINARY_DIR}/p/ClayKitConfigVersion.cmake "
                        "COMPATIBILITY SameMajorVersion)\nfile(WRITE ${CMAKE_BINARY_DIR}/p/ClayKitConfig.cmake \"\")\n")
                  .ok());
  const std::string where = reading.tree.kiln() + "/work/p";
  for (const auto& [wish, found] : std::vector<std::pair<std::string, std::string>>{
           {"3", "1"}, {"3.1", "1"}, {"3.3", "0"}, {"2", "0"}, {"3.2.1 EXACT", "1"}, {"3.2 EXACT", "0"}}) {
    EXPECT_EQ(reading.says("set(ClayKit_DIR " + where + ")\nfind_package(ClayKit " + wish +
                           " CONFIG QUIET)\nmessage(STATUS ${ClayKit_FOUND})\n"),
              Words{found})
        << wish;
  }
}

TEST(Modules, InstallRulesAreKeptForLater) {
  Reading reading;
  reading.tree.write("a.c", "");
  const auto project =
      reading.read("add_library(x a.c)\ninstall(TARGETS x DESTINATION lib)\ninstall(FILES a.c DESTINATION src)\n");
  ASSERT_TRUE(project.ok());
  ASSERT_EQ(project->install_rules.size(), 2U);
  EXPECT_EQ(project->install_rules[1].words[1].text, "a.c");
  EXPECT_EQ(project->install_rules[1].words[1].place.line, 5);
}

TEST(Declared, TimesOfFilesInAFormAndInUniversalTime) {
  Reading reading;
  reading.tree.write("clay", "");
  const struct timespec times[2] = {{0, 0}, {1'700'000'000, 0}};
  ASSERT_EQ(::utimensat(AT_FDCWD, reading.tree.path("clay").c_str(), times, 0), 0);
  EXPECT_EQ(reading.says("file(TIMESTAMP clay a UTC)\nfile(TIMESTAMP clay b \"%Y %H\" UTC)\n"
                         "file(TIMESTAMP clay c \"%Y\")\nmessage(STATUS \"${a} ${b} ${c}\")\n"),
            Words{"2023-11-14T22:13:20Z 2023 22 2023"});
}

TEST(Declared, WordsKnowTheirPlace) {
  Reading reading;
  reading.tree.write("a.c", "");
  const auto project = reading.read(
      "add_library(x STATIC a.c)\ntarget_link_libraries(x\n  PUBLIC m)\nadd_custom_command(OUTPUT t COMMAND true)\n");
  ASSERT_TRUE(project.ok());
  const auto* x = project->target("x");
  ASSERT_NE(x, nullptr);
  EXPECT_EQ(x->place.line, 3);
  EXPECT_EQ(x->own.link_items.at(0).place.line, 4);
  EXPECT_EQ(project->rules.at(0).place.line, 6);
}

TEST(Declared, TheOlderWordForTheSourceOfARule) {
  Reading reading;
  const auto project = reading.read(
      "add_custom_command(OUTPUT ${CMAKE_CURRENT_BINARY_DIR}/a.c a.h SOURCE a.l COMMAND cp a.l a.c DEPENDS b.l)\n");
  ASSERT_TRUE(project.ok());
  const auto& rule = project->rules.at(0);
  ASSERT_EQ(rule.outputs.size(), 2U);
  ASSERT_EQ(rule.depends.size(), 2U);
  EXPECT_EQ(rule.depends[1].text, "a.l");
}

TEST(Declared, LinkNamesThatAreNotThereAreWants) {
  Reading reading;
  reading.tree.write("a.c", "");
  const auto project = reading.read(
      "add_executable(x a.c)\ntarget_link_libraries(x m no_such_brick)\nadd_executable(y EXCLUDE_FROM_ALL "
      "a.c)\ntarget_link_libraries(y no_such_tile)\n");
  ASSERT_TRUE(project.ok());
  std::map<std::string, bool> found;
  for (const auto& finding : project->findings) found[finding.requirement.name] = finding.found;
  EXPECT_TRUE(found.at("m"));
  EXPECT_FALSE(found.at("no_such_brick"));
  EXPECT_FALSE(found.contains("no_such_tile"));  // not asked for
}

// The words of the only rule for installing, in one line.
std::string installed_by(Reading& reading, const std::string& text) {
  const auto project = reading.read(text);
  if (!project) return project.problem().what;
  std::string out;
  for (const auto& rule : project->install_rules) {
    for (const auto& word : rule.words) out += (out.empty() ? "" : " ") + word.text;
  }
  return out;
}

TEST(Declared, FilesToInstallInTheOldestForms) {
  Reading reading;
  for (const char* name : {"cone.h", "clay.h", "clay.c"}) reading.tree.write(name, "");
  EXPECT_EQ(installed_by(reading, "install_files(/include FILES cone.h)\n"), "FILES cone.h DESTINATION include");
  EXPECT_EQ(installed_by(reading, "install_files(/include .h cone clay.h)\n"),
            "FILES cone.h clay.h DESTINATION include");
  EXPECT_EQ(installed_by(reading, "install_files(/include ^c.*h$)\n"), "FILES clay.h cone.h DESTINATION include");
  EXPECT_EQ(installed_by(reading, "install_programs(/bin made.sh)\n"), "PROGRAMS made.sh DESTINATION bin");
}

TEST(Declared, ErrorsThatDoNotStopAreToldInTheEndWithWhatComesAfter) {
  Reading reading;
  const auto project = reading.read(
      "message(SEND_ERROR \"no clay\")\nfile(WRITE ${CMAKE_BINARY_DIR}/after \"\")\nmessage(SEND_ERROR \"no glaze\")\n"
      "file(GENERATE OUTPUT generated CONTENT 1)\n");
  ASSERT_FALSE(project.ok());
  const auto& problem = project.problem();
  EXPECT_EQ(problem.exit, Exit::description);
  EXPECT_EQ(problem.place.text(), "CMakeLists.txt:3:1");
  EXPECT_EQ(problem.what, "the description gives up: no clay");
  ASSERT_FALSE(problem.trail.empty());
  EXPECT_EQ(problem.trail.back(), "then CMakeLists.txt:5:1: the description gives up: no glaze");
  EXPECT_TRUE(files::is_file(reading.tree.kiln() + "/work/after"));
  // One that stops is told behind the first.
  const auto stopped = reading.read("message(SEND_ERROR \"no clay\")\nset()\nmessage(SEND_ERROR \"no glaze\")\n");
  ASSERT_FALSE(stopped.ok());
  EXPECT_EQ(stopped.problem().what, "the description gives up: no clay");
  EXPECT_NE(stopped.problem().trail.back().find("then CMakeLists.txt:4:1: "), std::string::npos)
      << stopped.problem().trail.back();
}

TEST(Declared, AScriptThatTellsErrorsGoesOnAndFailsInTheEnd) {
  TreeFolder tree;
  tree.write("script.cmake", "message(SEND_ERROR \"no clay\")\nfile(WRITE after 1)\n");
  const auto done = describe::listfile::run_script("script.cmake", tree.path(), {}, {}, tree.path(), tree.path());
  ASSERT_FALSE(done.ok());
  EXPECT_NE(done.problem().what.find("no clay"), std::string::npos);
  EXPECT_TRUE(files::is_file(tree.path("after")));
}

}  // namespace
}  // namespace coctilis::test
