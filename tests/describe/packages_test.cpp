// Packages by name: components, parts of the C library, generators.
#include "describe/reader.h"

namespace coctilis::test {
namespace {

const model::Finding* package_finding(const Declared& project, const std::string& name) {
  for (const auto& finding : project.findings) {
    if (finding.requirement.name == name) return &finding;
  }
  return nullptr;
}

TEST(Packages, PartsOfTheCLibraryAreAskedOfTheCompiler) {
  Reading reading;
  const auto project = reading.read(
      "find_package(Iconv REQUIRED)\nfind_package(Backtrace)\nmessage(STATUS \"${Iconv_FOUND} ${Iconv_IS_BUILT_IN} "
      "${Backtrace_FOUND} ${Backtrace_HEADER}\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->messages.back(), "TRUE TRUE TRUE execinfo.h");
  EXPECT_NE(project->target("Iconv::Iconv"), nullptr);
}

TEST(Packages, PartsOfOpenGl) {
  Reading reading;
  for (const char* header : {"GL/gl.h", "GL/glu.h"}) reading.tree.write(std::string("../kit/include/") + header, "");
  for (const char* name : {"GL", "GLU"}) reading.tree.write(std::string("../kit/lib/lib") + name + ".a", "!<arch>\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kit"};
  const auto project = reading.read(
      "find_package(OpenGL REQUIRED)\nmessage(STATUS \"${OPENGL_GLU_FOUND} ${OPENGL_glu_LIBRARY}\")\n"
      "message(STATUS \"${OPENGL_LIBRARIES}\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const std::string lib = reading.tree.scratch() + "/kit/lib/";
  ASSERT_EQ(project->messages.size(), 2U);
  EXPECT_EQ(project->messages[0], "TRUE " + lib + "libGLU.a");
  EXPECT_EQ(project->messages[1], lib + "libGL.a;" + lib + "libGLU.a");
  EXPECT_NE(project->target("OpenGL::GLU"), nullptr);
}

TEST(Packages, WordsWithoutAValueSayNothing) {
  Reading reading;
  EXPECT_EQ(
      reading.says("find_package(ZLIB \"${NO_VERSION}\" QUIET)\nfind_package(ZLIB 0 QUIET)\nmessage(STATUS read)\n"),
      std::vector<std::string>{"read"});
  EXPECT_EQ(reading.says("find_package(\"${NO_NAME}\")\n"),
            std::vector<std::string>{"CMakeLists.txt:3:1: find_package is given no name"});
}

TEST(Packages, TheFileOfALibraryIsTold) {
  Reading reading;
  for (const char* header : {"GL/gl.h", "GL/glu.h"}) reading.tree.write(std::string("../kit/include/") + header, "");
  for (const char* name : {"GL", "GLU"}) reading.tree.write(std::string("../kit/lib/lib") + name + ".a", "!<arch>\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kit"};
  const auto project = reading.read(
      "find_package(OpenGL REQUIRED)\nforeach(name LOCATION IMPORTED_LOCATION IMPORTED_LOCATION_RELEASE)\n"
      "get_target_property(place OpenGL::GLU ${name})\nmessage(STATUS \"${place}\")\nendforeach()\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const std::string glu = reading.tree.scratch() + "/kit/lib/libGLU.a";
  EXPECT_EQ(project->messages, (std::vector<std::string>{glu, glu, glu}));
}

TEST(Packages, SearchesForCompilersMayBeIncludedByName) {
  Reading reading;
  EXPECT_EQ(reading.says("include(CMakeDetermineCCompiler)\nif(CMAKE_C_COMPILER)\nmessage(STATUS there)\nendif()\n"),
            std::vector<std::string>{"there"});
}

// Headers in a folder of their own, and variables that only this package has.
TEST(Packages, VariablesAndFoldersFromTheTable) {
  Reading reading;
  reading.tree.write("../kit/include/bullet/btBulletDynamicsCommon.h", "");
  for (const char* name : {"BulletSoftBody", "BulletDynamics", "BulletCollision", "LinearMath"})
    reading.tree.write(std::string("../kit/lib/lib") + name + ".a", "!<arch>\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kit"};
  const std::string lib = reading.tree.scratch() + "/kit/lib/lib";
  EXPECT_EQ(reading.says("find_package(Bullet REQUIRED)\n"
                         "message(STATUS \"${BULLET_INCLUDE_DIRS}\")\nmessage(STATUS \"${BULLET_MATH_LIBRARY}\")\n"
                         "list(GET BULLET_LIBRARIES 0 first)\nmessage(STATUS \"${first}\")\n"),
            (std::vector<std::string>{reading.tree.scratch() + "/kit/include/bullet", lib + "LinearMath.a",
                                      lib + "BulletSoftBody.a"}));
}

// What belongs to a package besides its program comes from the table: programs beside it, what it tells, fixed values.
TEST(Packages, WhatGoesWithAProgram) {
  Reading reading;
  const std::string kit = reading.tree.scratch() + "/kit";
  const auto program = [&](const std::string& name, const std::string& text) {
    files::write(kit + "/bin/" + name, "#!/bin/sh\n" + text);
    std::filesystem::permissions(kit + "/bin/" + name, std::filesystem::perms::owner_all);
  };
  program("swig", "case $1 in -swiglib) echo /kit/swig;; *) echo 'SWIG Version 4.1.0';; esac\n");
  program("msgfmt", "echo 'msgfmt 0.21'\n");
  reading.settings.prefixes = {kit};
  EXPECT_EQ(reading.says("find_package(SWIG REQUIRED COMPONENTS python)\nfind_package(Gettext REQUIRED)\n"
                         "message(STATUS \"${SWIG_DIR} ${SWIG_USE_FILE} ${SWIG_python_FOUND}\")\n"
                         "message(STATUS \"${GETTEXT_MSGFMT_EXECUTABLE}\")\n"
                         "if(DEFINED GETTEXT_MSGMERGE_EXECUTABLE)\nmessage(STATUS beside)\nendif()\n"),
            (std::vector<std::string>{"/kit/swig UseSWIG TRUE", kit + "/bin/msgfmt", "beside"}));
}

TEST(Packages, WhatIsLinkedThoughItWasNotFoundIsWantedByItsName) {
  Reading reading;
  const auto project = reading.read(
      "find_library(GLAZE_LIB NAMES no-such-glaze)\nadd_library(kilns STATIC a.c)\n"
      "target_link_libraries(kilns ${GLAZE_LIB})\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const model::Finding* missing = nullptr;
  for (const auto& finding : project->findings) {
    if (finding.requirement.required && !finding.found) missing = &finding;
  }
  ASSERT_NE(missing, nullptr);
  EXPECT_EQ(missing->requirement.name, "no-such-glaze");
  EXPECT_NE(missing->requirement.required_by.find("'GLAZE_LIB-NOTFOUND'"), std::string::npos)
      << missing->requirement.required_by;
}

TEST(Packages, ProgramsAreImportedTargets) {
  Reading reading;
  const auto project = reading.read(
      "find_package(Python3 REQUIRED)\nenable_testing()\nadd_test(NAME t COMMAND Python3::Interpreter -V)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const auto* interpreter = project->target("Python3::Interpreter");
  ASSERT_NE(interpreter, nullptr);
  EXPECT_EQ(interpreter->kind, model::TargetKind::program);
  EXPECT_TRUE(interpreter->imported);
}

TEST(Packages, WhatAProgramNeedsIsReadOutOfIt) {
  Reading reading;
  const auto project = reading.read(
      "include(GetPrerequisites)\nget_prerequisites(/bin/sh all 0 0 \"\" \"\")\n"
      "get_prerequisites(/bin/sh own 1 1 \"\" \"\")\nget_prerequisites(CMakeLists.txt none 0 0 \"\" \"\")\n"
      "if(all MATCHES \"/libc\\\\.so\\\\.6\")\n  message(STATUS found)\nendif()\n"
      "message(STATUS \"<${own}> <${none}>\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->messages, (std::vector<std::string>{"found", "<> <>"}));
}

TEST(Packages, TheOlderNamesOfPython) {
  Reading reading;
  const std::string kit = reading.tree.scratch() + "/kit";
  reading.tree.write("../kit/lib/pkgconfig/python3-embed.pc", "Name: python\nDescription: -\nVersion: 3.9\nCflags: -I" +
                                                                  kit + "/include/python3.9\nLibs: -L" + kit +
                                                                  "/lib -lpython3.9\n");
  reading.tree.write("../kit/include/python3.9/Python.h", "");
  reading.tree.write("../kit/lib/libpython3.9.a", "!<arch>\n");
  reading.settings.prefixes = {kit};
  const auto project = reading.read(
      "find_package(PythonInterp REQUIRED)\nfind_package(PythonLibs REQUIRED)\n"
      "message(STATUS \"${PYTHONLIBS_FOUND} ${PYTHON_INCLUDE_DIRS} ${PYTHON_LIBRARIES}\")\n"
      "if(PYTHONINTERP_FOUND AND PYTHON_VERSION_STRING VERSION_GREATER 3 AND PYTHON_VERSION_MAJOR EQUAL 3\n"
      "   AND PYTHONLIBS_VERSION_STRING STREQUAL 3.9 AND EXISTS ${PYTHON_EXECUTABLE})\n  message(STATUS "
      "yes)\nendif()\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->messages.size(), 2U);
  EXPECT_EQ(project->messages[0], "TRUE " + kit + "/include/python3.9 " + kit + "/lib/libpython3.9.a");
}

TEST(Packages, AMissingComponentIsNamed) {
  Reading reading;
  reading.tree.write("../kit/include/unicode/utypes.h", "");
  for (const char* name : {"uc", "data", "i18n"})
    reading.tree.write(std::string("../kit/lib/libicu") + name + ".a", "!<arch>\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kit"};
  const auto project = reading.read("find_package(ICU REQUIRED COMPONENTS uc kilnfire)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const auto* finding = package_finding(*project, "icu-uc");
  ASSERT_NE(finding, nullptr);
  EXPECT_FALSE(finding->found);
  EXPECT_NE(finding->reason.find("the component 'kilnfire' is not there"), std::string::npos) << finding->reason;
  EXPECT_NE(project->target("ICU::uc"), nullptr);
}

TEST(Packages, FindModulesCanBeIncluded) {
  Reading reading;
  EXPECT_EQ(reading.says("include(FindPerl)\nif(DEFINED PERL_FOUND)\nmessage(STATUS asked)\nendif()\n"),
            std::vector<std::string>{"asked"});
}

TEST(Packages, QuestionsAboutModulesAreAnsweredFromTheFiles) {
  Reading reading;
  reading.tree.write(
      "../kit/lib/pkgconfig/clay.pc",
      "depth=4\nName: clay\nDescription: d\nVersion: 2.1\nCflags: -I/clay -DKILN\nLibs: -L/clay/lib -lclay\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/kit"};
  EXPECT_EQ(reading.says("find_package(PkgConfig REQUIRED)\n"
                         "execute_process(COMMAND ${PKG_CONFIG_EXECUTABLE} --variable=depth clay OUTPUT_VARIABLE a "
                         "OUTPUT_STRIP_TRAILING_WHITESPACE)\n"
                         "execute_process(COMMAND ${PKG_CONFIG_EXECUTABLE} --libs --cflags clay OUTPUT_VARIABLE b "
                         "OUTPUT_STRIP_TRAILING_WHITESPACE)\n"
                         "execute_process(COMMAND ${PKG_CONFIG_EXECUTABLE} --exists none RESULT_VARIABLE c)\n"
                         "message(STATUS \"${a}|${b}|${c}\")\n"),
            std::vector<std::string>{"4|-I/clay -DKILN -L/clay/lib -lclay|1"});
}

TEST(Generators, ScannersAndParsersAreRules) {
  Reading reading;
  const auto project = reading.read(
      "FLEX_TARGET(scan s.l ${CMAKE_CURRENT_BINARY_DIR}/s.c)\nBISON_TARGET(parse p.y "
      "${CMAKE_CURRENT_BINARY_DIR}/p.cc COMPILE_FLAGS -v)\nADD_FLEX_BISON_DEPENDENCY(scan parse)\n"
      "message(STATUS \"${FLEX_scan_OUTPUTS}\")\nmessage(STATUS \"${BISON_parse_OUTPUT_HEADER}\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->rules.size(), 2U);
  EXPECT_TRUE(project->messages[0].ends_with("/work/s.c"));
  EXPECT_TRUE(project->messages[1].ends_with("/work/p.hh"));
  EXPECT_EQ(project->rules[1].outputs.size(), 2U);
}

TEST(Generators, FilesOfMessagesGoIntoTheirTarget) {
  Reading reading;
  reading.tree.write("messages/kiln.proto", "");
  const auto project = reading.read(
      "add_library(kilns STATIC a.c)\n"
      "protobuf_generate(TARGET kilns PROTOS messages/kiln.proto IMPORT_DIRS . OUT_VAR made)\n"
      "message(STATUS \"${made}\")\n"
      "protobuf_generate(TARGET kilns LANGUAGE python PROTOS messages/kiln.proto)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->rules.size(), 2U);
  const std::string work = reading.tree.kiln() + "/work/messages/kiln";
  EXPECT_EQ(project->messages[0], work + ".pb.h;" + work + ".pb.cc");
  EXPECT_EQ(project->rules[1].outputs.front().text, work + "_pb2.py");
  EXPECT_EQ(project->target("kilns")->sources.size(), 4U);
  const auto refused = reading.read("protobuf_generate(LANGUAGE cobol OUT_VAR made PROTOS a.proto)\n");
  ASSERT_FALSE(refused.ok());
  EXPECT_NE(refused.problem().what.find("what comes out for 'cobol'"), std::string::npos) << refused.problem().what;
}

TEST(Generators, CataloguesOfTranslations) {
  Reading reading;
  const auto project = reading.read(
      "gettext_create_translations(po/yard.pot ALL po/de.po po/fr.po)\n"
      "gettext_process_po_files(nl INSTALL_DESTINATION share/words PO_FILES po/kilns.po)\n"
      "gettext_process_pot_file(yard.pot LANGUAGES sv)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  ASSERT_EQ(project->rules.size(), 7U);
  const std::string work = reading.tree.kiln() + "/work/";
  EXPECT_EQ(project->rules[0].outputs.front().text, work + "de.po");  // in step with its template, not in the tree
  EXPECT_EQ(project->rules[1].outputs.front().text, work + "de.gmo");
  EXPECT_EQ(project->rules[4].outputs.front().text, work + "kilns.gmo");
  EXPECT_TRUE(project->target("translations")->in_default);
  EXPECT_FALSE(project->target("pofiles")->in_default);
  EXPECT_FALSE(project->target("potfiles")->in_default);
  EXPECT_EQ(project->install_rules.size(), 3U);
}

TEST(Packages, WidgetsTellThroughTheirOwnProgram) {
  Reading reading;
  const std::string kit = reading.tree.scratch() + "/kit";
  files::write(
      kit + "/bin/wx-config",
      "#!/bin/sh\ncase $1 in\n--version) echo 3.2.2;;\n--cxxflags) echo '-I/wx/include -DWIDGETS -pthread';;\n"
      "--libs) case $2 in core,base) echo '-L/wx/lib -lwx_core -lwx_base';; *) echo 'no such part' >&2; exit 1;; "
      "esac;;\nesac\n");
  std::filesystem::permissions(kit + "/bin/wx-config", std::filesystem::perms::owner_all);
  reading.settings.prefixes = {kit};
  const auto project = reading.read(
      "find_package(wxWidgets 3.0 REQUIRED COMPONENTS core base)\ninclude(${wxWidgets_USE_FILE})\n"
      "message(STATUS \"${wxWidgets_LIBRARIES}\")\nadd_library(panel STATIC a.cpp)\n"
      "find_package(wxWidgets COMPONENTS richtext)\nmessage(STATUS \"${wxWidgets_FOUND}\")\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->messages[0], "-L/wx/lib;-lwx_core;-lwx_base");
  EXPECT_EQ(project->messages[1], "FALSE");
  const auto& own = project->target("panel")->own;
  ASSERT_EQ(own.include_folders.size(), 1U);
  EXPECT_EQ(own.include_folders[0].text, "/wx/include");
  ASSERT_EQ(own.definitions.size(), 1U);
  EXPECT_EQ(own.definitions[0].text, "WIDGETS");
}

TEST(Conditions, ToTheLetter) {
  Reading reading;
  EXPECT_EQ(
      reading.says("if()\nmessage(STATUS no)\nelse()\nmessage(STATUS empty)\nendif()\n"
                   "set(release 1)\nif(release MATCHES (release|debug))\nmessage(STATUS no)\nelse()\nmessage(STATUS "
                   "parentheses)\nendif()\n"
                   "set(pattern x)\nif(pattern MATCHES pattern)\nmessage(STATUS no)\nelse()\nmessage(STATUS "
                   "letters)\nendif()\n"
                   "if(\"12abc\" EQUAL 12)\nmessage(STATUS number)\nendif()\n"),
      (std::vector<std::string>{"empty", "parentheses", "letters", "number"}));
}

TEST(Definitions, InTwoWords) {
  Reading reading;
  reading.tree.write("a.c", "int main(void) { return BRICK; }\n");
  const auto project = reading.read("add_definitions(-D BRICK=0)\nadd_executable(a a.c)\n");
  ASSERT_TRUE(project.ok());
  bool seen = false;
  for (const auto& value : project->target("a")->own.definitions) seen = seen || value.text == "BRICK=0";
  EXPECT_TRUE(seen);
}

TEST(RulesOfTargets, ForATargetThatIsNotThere) {
  Reading reading;
  const std::string rule = "add_custom_command(TARGET none POST_BUILD COMMAND true)\n";
  const auto older = reading.read("cmake_policy(SET CMP0040 OLD)\n" + rule);
  ASSERT_TRUE(older.ok()) << older.problem().what;
  ASSERT_EQ(older->warnings.size(), 1U);
  EXPECT_NE(older->warnings[0].what.find("'none', which is not declared"), std::string::npos);
  EXPECT_FALSE(reading.read("cmake_policy(SET CMP0040 NEW)\n" + rule).ok());
}

TEST(Documentation, IsLeftOutAndListed) {
  Reading reading;
  const auto project = reading.read("doxygen_add_docs(manual src)\n");
  ASSERT_TRUE(project.ok());
  ASSERT_EQ(project->left_out.size(), 1U);
  EXPECT_EQ(project->left_out[0].name, "manual");
  EXPECT_NE(project->target("manual"), nullptr);
}

}  // namespace
}  // namespace coctilis::test
