// The whole program on whole trees.
#include <sys/stat.h>
#include <unistd.h>

#include <set>

#include "base/text.h"
#include "support.h"

namespace coctilis::test {
namespace {

// Every file of a folder with its size and time.
std::map<std::string, std::pair<std::uintmax_t, std::int64_t>> snapshot(const std::string& folder) {
  std::map<std::string, std::pair<std::uintmax_t, std::int64_t>> out;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) {
    if (entry.is_regular_file())
      out[entry.path().string()] = {entry.file_size(), entry.last_write_time().time_since_epoch().count()};
  }
  return out;
}

TEST(Bringup, DemoFromEmptyFolderToCheckedPrograms) {
  TreeFolder place;
  const std::string folder = place.path("yard");
  const auto said = coctilis({"demo", folder, "--kiln", place.kiln(), "--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  const auto run = said.json();
  EXPECT_EQ(run["schema"], 4);
  EXPECT_EQ(run["exit"], 0);
  EXPECT_EQ(run["project"]["name"], "brickyard");
  EXPECT_EQ(run["survey"]["submodules"][0]["state"], "pinned");
  std::map<std::string, nlohmann::json> wants;
  for (const auto& want : run["requirements"]) wants[want["name"]] = want;
  EXPECT_TRUE(wants.at("zlib")["found"].get<bool>());
  EXPECT_TRUE(wants.at("sqlite3")["found"].get<bool>());
  EXPECT_FALSE(wants.at("ClayKit")["found"].get<bool>());
  EXPECT_EQ(run["build"]["failed"], 0);
  EXPECT_GT(run["build"]["ran"], 25);
  std::set<std::string> kinds;
  for (const auto& check : run["checks"]) {
    EXPECT_EQ(check["verdict"], "passed") << check.dump(1);
    kinds.insert(check["kind"].get<std::string>());
  }
  EXPECT_EQ(kinds, (std::set<std::string>{"loads", "starts", "library", "smoke", "declared"}));

  // The results are where they are shown, and run from there.
  const std::string kiln = place.label_folder();
  Command command;
  command.argv = {kiln + "/bin/firecurve", "--cone", "6", folder + "/data/schedule.csv"};
  EXPECT_NE(coctilis::run(command).output.find("peak 1222"), std::string::npos);
  EXPECT_TRUE(files::is_file(kiln + "/lib/libcurve.so.2"));
  for (const char* file : {"run.json", "summary.txt", "log", "report.html"})
    EXPECT_TRUE(files::is_file(kiln + "/runs/latest/" + file)) << file;
  EXPECT_TRUE(files::is_file(kiln + "/compile_commands.json"));

  // Again: nothing to do, and the tree is as it was.
  const auto before = snapshot(folder);
  const auto again = coctilis({"bringup", folder, "--kiln", place.kiln(), "--json"});
  EXPECT_EQ(again.exit, 0);
  EXPECT_EQ(again.json()["build"]["ran"], 0);
  EXPECT_EQ(before, snapshot(folder));

  // A changed source: only what it touches.
  files::write(folder + "/clay/moisture.c", *files::read(folder + "/clay/moisture.c") + "/* wet */\n");
  const auto third = coctilis({"build", folder, "--kiln", place.kiln(), "--json"}).json();
  EXPECT_EQ(third["build"]["ran"], 1);  // the object comes out the same: nothing after it runs

  // Results may move with their kiln.
  std::filesystem::rename(place.kiln(), place.scratch() + "/moved");
  command.argv[0] = text::replace_all(kiln, place.kiln(), place.scratch() + "/moved") + "/bin/firecurve";
  EXPECT_TRUE(coctilis::run(command).good());
}

TEST(Bringup, DemoWantsAnEmptyFolder) {
  TreeFolder place;
  place.write("file", "x");
  const auto said = coctilis({"demo", place.path()});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("is not empty"), std::string::npos);
}

TEST(Bringup, DefaultKilnIsInTheTreeAndIgnored) {
  TreeFolder tree;
  write_small_tree(tree);
  EXPECT_EQ(coctilis({"bringup", tree.path()}).exit, 0);
  EXPECT_NE(tree.read("kiln/.gitignore").find("*"), std::string::npos);
  const auto clean = coctilis({"clean", tree.path()});
  EXPECT_EQ(clean.exit, 0);
  EXPECT_NE(clean.all().find("nothing was removed"), std::string::npos);
  EXPECT_EQ(coctilis({"clean", tree.path(), "--yes"}).exit, 0);
  // Nothing of it stays to hide what may come to lie there.
  EXPECT_FALSE(files::exists(tree.path("kiln")));
}

TEST(Bringup, VariantsHaveKilnsOfTheirOwn) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("coctilis.toml", "[variant.field]\nbased-on = \"debug\"\ncompile = [\"-DFIELD=1\"]\n");
  const auto plan = coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--variant", "field", "--json"}).json();
  const std::string argv = plan["steps"][0]["actions"][0]["argv"].dump();
  EXPECT_NE(argv.find("\"-g\""), std::string::npos);
  EXPECT_NE(argv.find("-DFIELD=1"), std::string::npos);
  EXPECT_NE(plan["label"].get<std::string>().find("-field"), std::string::npos);
  const auto unknown = coctilis({"plan", tree.path(), "--variant", "none"});
  EXPECT_EQ(unknown.exit, 2);
}

TEST(Bringup, ToolchainIsChosen) {
  TreeFolder tree;
  write_small_tree(tree);
  const auto said = coctilis({"locate", tree.path(), "--kiln", tree.kiln(), "--toolchain", "gcc >= 99"});
  EXPECT_EQ(said.exit, 3);
  EXPECT_NE(said.all().find("there are gcc"), std::string::npos) << said.all();
}

TEST(Bringup, TestsOfTheTreeDoNotWriteIntoIt) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\nenable_testing()\nadd_executable(t "
             "t.c)\nadd_test(NAME t COMMAND t WORKING_DIRECTORY ${CMAKE_SOURCE_DIR})\n"
             "add_test(NAME beside COMMAND sh -c \"test -x \\$0 && cp $1 $1.copy && cp $1 $2 && test $3 = $PWD/x\"\n"
             "  $<TARGET_FILE:t> ${CMAKE_SOURCE_DIR}/in.txt ${CMAKE_SOURCE_DIR}/in.copy ${CMAKE_BINARY_DIR}/x)\n");
  tree.write("in.txt", "clay");
  tree.write("t.c",
             "#include <stdio.h>\nint main(void) { FILE* i = fopen(\"in.txt\", \"r\"); FILE* o = fopen(\"out.txt\", "
             "\"w\"); return i && o ? 0 : 1; }\n");
  EXPECT_EQ(coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}).exit, 0);
  for (const char* name : {"out.txt", "in.copy", "in.txt.copy"}) EXPECT_FALSE(files::is_file(tree.path(name))) << name;
}

TEST(Bringup, TestsOfProgramsThatAreNotMadeAreSkipped) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\nenable_testing()\nadd_executable(t t.c)\n"
             "add_executable(rare EXCLUDE_FROM_ALL t.c)\nadd_test(NAME one COMMAND t)\n"
             "add_test(NAME driven COMMAND sh -c $<TARGET_FILE:rare>)\n");
  tree.write("t.c", "int main(void) { return 0; }\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("driven: 'rare', which it needs, was not built"), std::string::npos) << said.all();
}

TEST(Bringup, RulesThatMakeSourcesInTheTreeGetACopyOfIt) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(Kiln C)\n"
             "add_custom_command(OUTPUT ${CMAKE_CURRENT_SOURCE_DIR}/src/cones.c DEPENDS src/cones.txt src/make-cones\n"
             "  COMMAND sh make-cones WORKING_DIRECTORY ${CMAKE_CURRENT_SOURCE_DIR}/src)\n"
             "add_executable(kiln src/kiln.c src/cones.c)\nenable_testing()\nadd_test(NAME peak COMMAND kiln)\n");
  tree.write("src/make-cones", "echo \"int peak(void) { return $(cat cones.txt); }\" > cones.c\n");
  tree.write("src/cones.txt", "1222");
  tree.write("src/kiln.c", "int peak(void);\nint main(void) { return peak() == 1222 ? 0 : 1; }\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("CMakeLists.txt:3:1: the description makes 'src/cones.c' in the source tree"),
            std::string::npos)
      << said.all();
  EXPECT_FALSE(files::is_file(tree.path("src/cones.c")));
  // The copy keeps in step with the tree.
  tree.write("src/cones.txt", "1100");
  EXPECT_EQ(coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}).exit, 6);
  EXPECT_EQ(coctilis({"build", tree.path(), "--kiln", tree.kiln(), "--json"}).json()["build"]["ran"], 0);
}

TEST(Bringup, NamedTargetsAndChecks) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\nadd_executable(a a.c)\nadd_executable(b a.c)\n");
  tree.write("a.c", "int main(void) { return 0; }\n");
  EXPECT_EQ(coctilis({"build", tree.path(), "b", "--kiln", tree.kiln()}).exit, 0);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/work/b"));
  EXPECT_FALSE(files::is_file(tree.label_folder() + "/work/a"));
  const auto wrong = coctilis({"build", tree.path(), "c", "--kiln", tree.kiln()});
  EXPECT_EQ(wrong.exit, 2);
  EXPECT_NE(wrong.all().find("there is no target 'c'"), std::string::npos);
  const auto checks = coctilis({"smoke", tree.path(), "a starts", "--kiln", tree.kiln(), "--json"}).json()["checks"];
  ASSERT_EQ(checks.size(), 1U);
  EXPECT_EQ(checks[0]["name"], "a starts");
  EXPECT_EQ(coctilis({"smoke", tree.path(), "z", "--kiln", tree.kiln()}).exit, 2);
}

TEST(Bringup, ReportFindsTheNewestRun) {
  TreeFolder tree;
  write_small_tree(tree);
  EXPECT_EQ(coctilis({"report", tree.path(), "--kiln", tree.kiln()}).exit, 2);
  coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(coctilis({"report", tree.path(), "--kiln", tree.kiln(), "--json"}).json()["run"], 2);
  const auto first = coctilis({"report", tree.path(), "--kiln", tree.kiln(), "--run", "1"});
  EXPECT_NE(first.all().find("runs/1/report.html"), std::string::npos);
  EXPECT_EQ(coctilis({"report", tree.path(), "--kiln", tree.kiln(), "--run", "9"}).exit, 2);
}

TEST(Bringup, BlanksAndLettersInPaths) {
  TreeFolder place;
  TreeFolder tree;
  write_small_tree(tree);
  const std::string odd = place.path("roof tiles & Öfen $(x) 'q'");
  std::filesystem::copy(tree.path(), odd);
  const auto said = coctilis({"bringup", odd});
  EXPECT_EQ(said.exit, 0) << said.out << said.err;
}

TEST(Bringup, PipesGetNoControlCharacters) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\nmessage(STATUS \"\x1b[2Jgone\")\nadd_executable(t "
             "t.c)\nadd_custom_command(TARGET t POST_BUILD COMMAND printf \"\\\\033]0;title\\\\007\")\n");
  tree.write("t.c", "#include <stdio.h>\nint main(void) { puts(\"\\033[2J\"); return 9; }\n");
  tree.write("coctilis.toml", "[[smoke]]\nrun = [\"t\"]\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "-v"});
  EXPECT_EQ(said.exit, 6);
  EXPECT_EQ((said.out + said.err).find('\x1b'), std::string::npos);
  EXPECT_EQ((said.out + said.err).find('\x07'), std::string::npos);
}

TEST(Bringup, LinesFitEightyColumns) {
  TreeFolder tree;
  write_small_tree(tree);
  const auto said = coctilis({"bringup", tree.path(), "--kiln", "out"}, {}, tree.scratch());
  ASSERT_EQ(said.exit, 0) << said.all();
  ASSERT_GE(text::split(said.out, '\n').size(), 8U) << said.out;
  for (const auto& line : text::split(said.out + said.err, '\n')) {
    if (line.find('/') != std::string::npos) continue;  // a path is never broken
    EXPECT_LE(text::columns(line), 80U) << line;
  }
}

TEST(Bringup, OptionsAreListed) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\noption(GLAZE \"With a glaze\" ON)\n"
             "set(PEAK 1222 CACHE STRING \"Degrees\")\nadd_executable(t t.c)\n");
  tree.write("t.c", "int main(void) { return 0; }\n");
  const auto said = coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--options", "--set", "GLAZE=OFF"}).all();
  EXPECT_NE(said.find("GLAZE = OFF, switch; default ON"), std::string::npos) << said;
  EXPECT_NE(said.find("PEAK = 1222, text"), std::string::npos) << said;
  EXPECT_NE(said.find("Degrees (CMakeLists.txt:4:1)"), std::string::npos) << said;
}

TEST(Bringup, ScriptsAndOperationsOfStepsRun) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(t C)\n"
             "add_custom_command(OUTPUT t.inc COMMAND ${CMAKE_COMMAND} -DPEAK=1222 -DOUT=t.inc -P "
             "${CMAKE_SOURCE_DIR}/fire.cmake DEPENDS fire.cmake)\n"
             "add_custom_command(OUTPUT u.inc COMMAND ${CMAKE_COMMAND} -E echo 7 > u.inc)\n"
             "add_executable(t t.c ${CMAKE_BINARY_DIR}/t.inc ${CMAKE_BINARY_DIR}/u.inc)\n"
             "target_include_directories(t PRIVATE ${CMAKE_BINARY_DIR})\n");
  tree.write("fire.cmake", "file(WRITE ${OUT} \"${PEAK}\\n\")\n");
  tree.write("t.c",
             "int peak =\n#include \"t.inc\"\n;\nint hours =\n#include \"u.inc\"\n;\nint main(void) { return peak == "
             "1222 && hours == 7 ? 0 : 1; }\n");
  tree.write("coctilis.toml", "[[smoke]]\nrun = [\"t\"]\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_FALSE(files::is_file(tree.path("t.inc")));
}

TEST(Bringup, HelpAndVersion) {
  EXPECT_EQ(coctilis({"--help"}).exit, 0);
  EXPECT_NE(coctilis({"--version"}).out.find("coctilis "), std::string::npos);
  for (const char* command : {"bringup", "survey", "locate", "plan", "build", "smoke", "report", "clean", "demo"})
    EXPECT_EQ(coctilis({command, "--help"}).exit, 0) << command;
}

// The program's own tree, as far as a test can take it: all of it planned, one source compiled.
TEST(Bringup, ItsOwnTree) {
  TreeFolder place;
  const auto said = coctilis({"plan", TEST_SOURCE, "--kiln", place.kiln(), "--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  const auto plan = said.json();
  std::set<std::string> programs;
  for (const auto& target : plan["targets"]) {
    if (target["kind"] == "program") programs.insert(target["name"].get<std::string>());
  }
  EXPECT_EQ(programs, (std::set<std::string>{"coctilis", "coctilis-sandbox", "unit-tests", "cli-tests"}));
  std::set<std::string> tests;
  for (const auto& test : plan["tests"]) tests.insert(test["name"].get<std::string>());
  EXPECT_EQ(tests.size(), plan["tests"].size());
  for (const char* test : {"structure", "checks", "edits-listfile", "edits-heat"})
    EXPECT_TRUE(tests.contains(test)) << test;
  std::string object;
  for (const auto& step : plan["steps"]) {
    if (step["subject"] == "src/base/dependency_file.cpp") object = step["outputs"][0].get<std::string>();
  }
  ASSERT_FALSE(object.empty());
  const auto built = coctilis({"build", TEST_SOURCE, object, "--kiln", place.kiln(), "--set", "COCTILIS_TESTS=OFF"});
  EXPECT_EQ(built.exit, 0) << built.err;
  EXPECT_TRUE(files::is_file(object));
}

TEST(InnerTrees, AreBuiltAndInstalledWhileTheDescriptionIsRead) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.16)
project(yard C)
execute_process(COMMAND ${CMAKE_COMMAND} -S ${CMAKE_SOURCE_DIR}/slip -B ${CMAKE_BINARY_DIR}/slip
                        -DCMAKE_INSTALL_PREFIX=${CMAKE_BINARY_DIR}/in -DSLIP_GRAINS=5
                RESULT_VARIABLE configured)
execute_process(COMMAND ${CMAKE_COMMAND} --build ${CMAKE_BINARY_DIR}/slip --target install RESULT_VARIABLE made)
if(NOT configured EQUAL 0 OR NOT made EQUAL 0)
  message(FATAL_ERROR "${configured} ${made}")
endif()
try_compile(whole ${CMAKE_BINARY_DIR}/trial ${CMAKE_SOURCE_DIR}/slip slip)
try_compile(broken ${CMAKE_BINARY_DIR}/trial2 ${CMAKE_SOURCE_DIR}/broken broken OUTPUT_VARIABLE why)
message(STATUS "trial ${whole} ${broken}")
if(NOT why MATCHES "shard.c")
  message(FATAL_ERROR "${why}")
endif()
find_library(SLIP slip PATHS ${CMAKE_BINARY_DIR}/in/lib NO_DEFAULT_PATH REQUIRED)
add_executable(kiln kiln.c)
target_include_directories(kiln PRIVATE ${CMAKE_BINARY_DIR}/in/include)
target_link_libraries(kiln ${SLIP})
)");
  tree.write("kiln.c", "#include <slip.h>\nint main(void) { return grains() - 5; }\n");
  tree.write("slip/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(slip C)\nadd_library(slip STATIC slip.c)\n"
             "target_compile_definitions(slip PRIVATE GRAINS=${SLIP_GRAINS})\n"
             "install(TARGETS slip DESTINATION lib)\ninstall(FILES slip.h DESTINATION include)\n");
  tree.write("slip/slip.h", "int grains(void);\n");
  tree.write("slip/slip.c", "#include \"slip.h\"\n#ifdef GRAINS\nint grains(void) { return GRAINS + 0; }\n#endif\n");
  tree.write("broken/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(broken C)\nadd_executable(shard shard.c)\n");
  tree.write("broken/shard.c", "int main(void) { return }\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "--json"});
  ASSERT_EQ(said.exit, 0) << said.out << said.err;
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/kiln"));
  EXPECT_NE(said.out.find("trial TRUE FALSE"), std::string::npos) << said.out;
  // The trees that were configured on the way stay as they were.
  EXPECT_FALSE(files::is_folder(tree.path("slip/kiln")));
}

TEST(InnerTrees, WhatOneLacksIsToldWithTheExitCodeForIt) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n"
             "execute_process(COMMAND ${CMAKE_COMMAND} -S ${CMAKE_SOURCE_DIR}/slip -B ${CMAKE_BINARY_DIR}/slip)\n");
  tree.write("slip/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(slip C)\nfind_package(ClayKit REQUIRED)\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("'slip'"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("ClayKit"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("CMakeLists.txt:3"), std::string::npos) << said.all();
}

TEST(InnerTrees, NamesAndValuesAreNeverOptions) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.25)
project(yard C)
try_compile(made PROJECT slip SOURCE_DIR ${CMAKE_SOURCE_DIR}/slip TARGET --version OUTPUT_VARIABLE why
            CMAKE_FLAGS "-D-q=1" "-DTEXT=a
--version")
message(STATUS "made ${made} [${why}]")
)");
  tree.write("slip/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(slip C)\nadd_executable(slip slip.c)\n");
  tree.write("slip/slip.c", "int main(void) { return 0; }\n");
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  EXPECT_NE(said.out.find("made FALSE"), std::string::npos) << said.out;
  EXPECT_NE(said.out.find("--version"), std::string::npos) << said.out;
}

TEST(InnerTrees, FollowTheVariant) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.25)
project(yard C)
try_compile(made PROJECT slip SOURCE_DIR ${CMAKE_SOURCE_DIR}/slip)
if(NOT made)
  message(FATAL_ERROR "not in this variant")
endif()
)");
  tree.write("slip/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(slip C)\nif(NOT CMAKE_BUILD_TYPE STREQUAL \"Debug\")\n"
             "  message(FATAL_ERROR \"${CMAKE_BUILD_TYPE}\")\nendif()\nadd_executable(slip slip.c)\n");
  tree.write("slip/slip.c", "int main(void) { return 0; }\n");
  EXPECT_EQ(coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--variant", "debug"}).exit, 0);
  EXPECT_EQ(coctilis({"plan", tree.path(), "--kiln", tree.kiln()}).exit, 4);
}

TEST(GeneratedFiles, OfATargetKnowItsPropertiesAndKeepTheirMode) {
  const TreeFolder tree;
  tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.20)
project(yard C)
add_executable(kiln kiln.c)
target_compile_definitions(kiln PRIVATE CONE=6 GLAZE)
set_property(TARGET kiln PROPERTY FIRED_BY wood)
file(GENERATE OUTPUT $<TARGET_PROPERTY:NAME>.txt TARGET kiln
     CONTENT "$<TARGET_PROPERTY:FIRED_BY> $<JOIN:$<TARGET_PROPERTY:COMPILE_DEFINITIONS>,+> $<TARGET_FILE_NAME:kiln>\n")
file(GENERATE OUTPUT fire.sh INPUT ${CMAKE_SOURCE_DIR}/fire.sh.in)
file(GENERATE OUTPUT never.txt CONTENT "x" CONDITION $<BOOL:OFF>)
)");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  tree.write("fire.sh.in", "#!/bin/sh\necho $<CONFIG>\n");
  ASSERT_EQ(::chmod(tree.path("fire.sh.in").c_str(), 0755), 0);
  const auto said = coctilis({"build", tree.path(), "--kiln", tree.kiln()});
  ASSERT_EQ(said.exit, 0) << said.all();
  std::string text;
  std::string script;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.label_folder())) {
    if (entry.path().filename() == "kiln.txt") text = entry.path().string();
    if (entry.path().filename() == "fire.sh") script = entry.path().string();
    EXPECT_NE(entry.path().filename(), "never.txt");
  }
  EXPECT_EQ(files::read(text).value_or(""), "wood CONE=6+GLAZE kiln\n");
  Command command;
  command.argv = {script};
  EXPECT_EQ(coctilis::run(command).output, "Release\n");
}

}  // namespace
}  // namespace coctilis::test
