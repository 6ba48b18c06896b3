// Content that would be loaded, files written into the tree, scripts, and tests of test programs.
#include "describe/reader.h"

namespace coctilis::test {
namespace {

const char* const declare =
    "include(FetchContent)\nFetchContent_Declare(slip GIT_REPOSITORY https://works.example/slip.git GIT_TAG v1.2)\n"
    "FetchContent_MakeAvailable(slip)\nmessage(STATUS \"${slip_SOURCE_DIR}\")\n";

const model::Finding* finding_of(const Declared& project, const std::string& name) {
  for (const auto& finding : project.findings) {
    if (finding.requirement.name == name) return &finding;
  }
  return nullptr;
}

TEST(Content, IsAWantWithUrlAndRevisionWhenItIsNowhere) {
  Reading reading;
  const auto project = reading.read(declare);
  ASSERT_TRUE(project.ok());
  const auto* finding = finding_of(*project, "slip");
  ASSERT_NE(finding, nullptr);
  EXPECT_FALSE(finding->found);
  EXPECT_TRUE(finding->requirement.required);
  for (const char* part : {"https://works.example/slip.git", "v1.2", "--set FETCHCONTENT_SOURCE_DIR_SLIP=FOLDER"})
    EXPECT_NE(finding->reason.find(part), std::string::npos) << finding->reason;
}

TEST(Content, IsTakenFromWhereItIsPointedAt) {
  Reading reading;
  reading.tree.write("../own/CMakeLists.txt", "add_library(slip INTERFACE)\n");
  reading.settings.options["FETCHCONTENT_SOURCE_DIR_SLIP"] = reading.tree.scratch() + "/own";
  const auto project = reading.read(declare);
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_NE(project->target("slip"), nullptr);
  EXPECT_EQ(project->messages.back(), reading.tree.scratch() + "/own");
}

TEST(Content, IsTakenFromAPrefixByTheNameOfItsRepository) {
  Reading reading;
  reading.tree.write("../kits/slip/CMakeLists.txt", "add_library(slip INTERFACE)\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kits"};
  const auto project = reading.read(declare);
  ASSERT_TRUE(project.ok());
  EXPECT_NE(project->target("slip"), nullptr);
}

TEST(Content, PropertiesTellWhetherItIsThere) {
  Reading reading;
  reading.tree.write("../kits/slip/x", "");
  reading.settings.prefixes = {reading.tree.scratch() + "/kits"};
  EXPECT_EQ(
      reading.says("include(FetchContent)\nFetchContent_Declare(slip URL https://works.example/slip-1.tar.gz)\n"
                   "FetchContent_GetProperties(slip)\nmessage(STATUS ${slip_POPULATED})\n"
                   "FetchContent_Populate(slip)\nFetchContent_GetProperties(slip POPULATED p)\nmessage(STATUS ${p})\n"),
      (std::vector<std::string>{"FALSE", "TRUE"}));
}

TEST(Overlay, WhatIsWrittenIntoTheTreeStandsBeforeIt) {
  Reading reading;
  reading.tree.write("config.h.in", "#define BRICKS @BRICKS@\n");
  reading.tree.write("config.h", "old\n");
  const auto project = reading.read(
      "set(BRICKS 7)\nconfigure_file(config.h.in ${CMAKE_CURRENT_SOURCE_DIR}/config.h)\n"
      "file(READ config.h now)\nmessage(STATUS \"${now}\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->messages.back(), "#define BRICKS 7\n");
  EXPECT_EQ(reading.tree.read("config.h"), "old\n");
  ASSERT_EQ(project->overlaid.size(), 1U);
  EXPECT_FALSE(project->warnings.empty());
}

TEST(Overlay, OtherPlacesAndVersionControlAreRefused) {
  for (const char* path :
       {"/tmp/brickyard-x", "${CMAKE_CURRENT_SOURCE_DIR}/../x", "${CMAKE_CURRENT_SOURCE_DIR}/.git/hooks/x"}) {
    Reading reading;
    const auto project = reading.read("file(WRITE \"" + std::string(path) + "\" x)\n");
    ASSERT_FALSE(project.ok()) << path;
    EXPECT_EQ(project.problem().exit, Exit::description);
  }
}

TEST(Script, RunsWithDefinitionsInAScopeOfItsOwn) {
  Reading reading;
  reading.tree.write("fire.cmake",
                     "message(STATUS \"peak ${PEAK} of ${CMAKE_ARGC}\")\nfile(WRITE out.txt \"${PEAK}\")\nset(A 1)\n");
  EXPECT_EQ(reading.says(
                "execute_process(COMMAND ${CMAKE_COMMAND} -DPEAK=1222 -P ${CMAKE_CURRENT_SOURCE_DIR}/fire.cmake more "
                "OUTPUT_VARIABLE o RESULT_VARIABLE r OUTPUT_STRIP_TRAILING_WHITESPACE)\n"
                "message(STATUS \"${o}|${r}|${A}\")\nfile(READ ${CMAKE_CURRENT_BINARY_DIR}/out.txt p)\nmessage(STATUS "
                "${p})\n"),
            (std::vector<std::string>{"peak 1222 of 4|0|", "1222"}));
}

TEST(Script, AFatalMessageIsAFailure) {
  Reading reading;
  reading.tree.write("cold.cmake", "message(FATAL_ERROR \"the kiln is cold\")\n");
  const auto said = reading.says(
      "execute_process(COMMAND ${CMAKE_COMMAND} -P ${CMAKE_CURRENT_SOURCE_DIR}/cold.cmake OUTPUT_VARIABLE o "
      "RESULT_VARIABLE "
      "r)\nmessage(STATUS \"${r} ${o}\")\n");
  ASSERT_EQ(said.size(), 1U);
  EXPECT_NE(said[0].find("the kiln is cold"), std::string::npos);
  EXPECT_EQ(said[0][0], '1');
}

TEST(Script, OneThatRunsItselfEnds) {
  Reading reading;
  reading.tree.write("again.cmake",
                     "execute_process(COMMAND ${CMAKE_COMMAND} -P ${CMAKE_CURRENT_LIST_FILE} OUTPUT_VARIABLE o "
                     "RESULT_VARIABLE r)\nmessage(STATUS \"${o}\")\n");
  const auto said = reading.says(
      "execute_process(COMMAND ${CMAKE_COMMAND} -P ${CMAKE_CURRENT_SOURCE_DIR}/again.cmake OUTPUT_VARIABLE o)\n"
      "message(STATUS \"${o}\")\n");
  ASSERT_EQ(said.size(), 1U);
  EXPECT_NE(said[0].find("more than 20 deep"), std::string::npos) << said[0];
}

TEST(External, AProjectOfItsOwnIsAWantOrLeftOut) {
  Reading reading;
  reading.tree.write("slip/slip.h", "");
  const auto project = reading.read(
      "include(ExternalProject)\n"
      "ExternalProject_Add(kilnlog PREFIX log GIT_REPOSITORY https://works.example/kilnlog.git GIT_TAG v2\n"
      "  CMAKE_ARGS -DX=1)\n"
      "ExternalProject_Get_Property(kilnlog INSTALL_DIR SOURCE_DIR)\nmessage(STATUS \"${INSTALL_DIR}|${SOURCE_DIR}\")\n"
      "ExternalProject_Add(papers URL https://works.example/papers.zip EXCLUDE_FROM_ALL TRUE)\n"
      "ExternalProject_Add(slip SOURCE_DIR ${CMAKE_CURRENT_SOURCE_DIR}/slip CONFIGURE_COMMAND \"\" BUILD_COMMAND \"\"\n"
      "  INSTALL_COMMAND \"\")\n"
      "ExternalProject_Add(samples SOURCE_DIR ${CMAKE_CURRENT_SOURCE_DIR}/samples)\n"
      "set_target_properties(samples PROPERTIES EXCLUDE_FROM_ALL TRUE)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const std::string log = reading.tree.kiln() + "/work/log";
  EXPECT_EQ(project->messages.back(), log + "|" + log + "/src/kilnlog");
  std::vector<std::string> missing;
  for (const auto& finding : project->findings) {
    if (!finding.found) missing.push_back(finding.requirement.name + ": " + finding.reason);
  }
  ASSERT_EQ(missing.size(), 1U);
  EXPECT_TRUE(
      missing[0].starts_with("kilnlog: the description would load it from https://works.example/kilnlog.git and "
                             "build it, revision v2"))
      << missing[0];
  ASSERT_EQ(project->left_out.size(), 2U);
  EXPECT_EQ(project->left_out[0].name, "papers");
  EXPECT_EQ(project->left_out[1].name, "samples");
}

TEST(Modules, ThoseThatOnlyBringCommandsCanBeIncluded) {
  Reading reading;
  const auto project = reading.read(
      "include(GetPrerequisites)\nset(CLAY_LIBRARY_DEBUG /clay/d.a)\ninclude(SelectLibraryConfigurations)\n"
      "select_library_configurations(CLAY)\nmessage(STATUS \"${CLAY_LIBRARY} ${CLAY_FOUND}\")\n"
      "include(AddFileDependencies)\nadd_file_dependencies(a.c cone.txt)\nget_source_file_property(d a.c "
      "OBJECT_DEPENDS)\nmessage(STATUS ${d})\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->messages.size(), 2U);
  EXPECT_EQ(project->messages[0], "/clay/d.a TRUE");
  EXPECT_EQ(project->messages[1], reading.tree.path("cone.txt"));
  Reading other;
  const auto refused = other.read("include(GetPrerequisites)\nlist_prerequisites(kiln 0 0 \"\" \"\")\n");
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(refused.problem().place.line, 4);
}

TEST(Refused, DeepTextsAndFilesThatAreNotThere) {
  for (const char* text : {"string(REPEAT \"[\" 5000 deep)\nstring(JSON A LENGTH \"${deep}\")\n",
                           "file(RENAME nowhere.txt ${CMAKE_CURRENT_BINARY_DIR}/x)\n"}) {
    Reading reading;
    const auto project = reading.read(text);
    ASSERT_FALSE(project.ok()) << text;
    EXPECT_EQ(project.problem().exit, Exit::description);
    EXPECT_FALSE(project.problem().place.file.empty());
  }
}

TEST(Generated, AParserWithoutAnEndingGetsAHeader) {
  Reading reading;
  EXPECT_TRUE(reading
                  .says("BISON_TARGET(p p.y ${CMAKE_CURRENT_BINARY_DIR}/parser)\nmessage(STATUS "
                        "${BISON_p_OUTPUT_HEADER})\n")
                  .back()
                  .ends_with("/parser.h"));
}

TEST(Discovered, ATestProgramIsOneTest) {
  Reading reading;
  reading.tree.write("t.c", "int main(void) { return 0; }\n");
  const auto project = reading.read(
      "enable_testing()\nadd_executable(t t.c)\ninclude(GoogleTest)\ngtest_discover_tests(t TEST_PREFIX kiln. "
      "EXTRA_ARGS -x "
      "PROPERTIES TIMEOUT 5)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->tests.size(), 1U);
  EXPECT_EQ(project->tests[0].name, "kiln.t");
  EXPECT_EQ(project->tests[0].command.size(), 2U);
  EXPECT_EQ(project->tests[0].properties.at("TIMEOUT").front().text, "5");
}

}  // namespace
}  // namespace coctilis::test
