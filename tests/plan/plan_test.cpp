// From a description to steps.
#include "base/text.h"
#include "plan/planning.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

TEST_F(PlanTest, RequirementsAreCarriedOverTheGraph) {
  sources({"a.cpp", "b.cpp", "c.cpp"});
  const auto made = plan(
      "add_library(clay STATIC a.cpp)\ntarget_include_directories(clay PUBLIC pub PRIVATE priv INTERFACE "
      "iface)\ntarget_compile_definitions(clay PUBLIC CLAY=1 PRIVATE SECRET)\n"
      "add_library(kiln STATIC b.cpp)\ntarget_link_libraries(kiln PRIVATE clay)\nadd_executable(fire "
      "c.cpp)\ntarget_link_libraries(fire kiln)\n");
  const auto a = command(made, "a.cpp");
  HAS(a, " -I" + tree("pub") + " ");
  HAS(a, " -I" + tree("priv") + " ");
  HAS(a, " -DSECRET ");
  HAS_NOT(a, tree("iface"));
  const auto b = command(made, "b.cpp");
  HAS(b, " -I" + tree("iface") + " ");
  HAS(b, " -DCLAY=1 ");
  HAS_NOT(b, "SECRET");
  const auto c = command(made, "c.cpp");
  HAS_NOT(c, tree("pub"));  // private to kiln
  // but what an archive needs is linked all the same, after it
  EXPECT_EQ(made.target("fire")->link_items, (Words{work("libkiln.a"), work("libclay.a")}));
}

TEST_F(PlanTest, LinkOrderKeepsWhatIsNamedThenPutsUsersFirst) {
  sources({"a.c", "b.c", "c.c", "m.c"});
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_library(b STATIC b.c)\nadd_library(c STATIC c.c)\ntarget_link_libraries(b "
      "a)\ntarget_link_libraries(c b m)\n"
      "add_executable(x m.c)\ntarget_link_libraries(x a b c)\n");
  EXPECT_EQ(made.target("x")->link_items,
            (Words{work("liba.a"), work("libb.a"), work("libc.a"), work("libb.a"), work("liba.a"), "-lm"}));
}

TEST_F(PlanTest, WhatIsNeededComesBehindAllThatIsNamed) {
  sources({"decode.c", "encode.c", "io.c", "m.c"});
  // The second archive needs what only the first one says that it needs.
  const auto made = plan(
      "add_library(decode STATIC decode.c)\nadd_library(encode STATIC encode.c)\nadd_library(io STATIC io.c)\n"
      "target_link_libraries(decode io m)\ntarget_link_libraries(encode io)\n"
      "add_executable(x m.c)\ntarget_link_libraries(x decode encode)\n");
  EXPECT_EQ(made.target("x")->link_items, (Words{work("libdecode.a"), work("libencode.a"), work("libio.a"), "-lm"}));
}

TEST_F(PlanTest, SharedLibrariesComeAgainForArchivesBehindThem) {
  sources({"a.c", "s.c", "m.c"});
  const auto made = plan(
      "add_library(s SHARED s.c)\nadd_library(a STATIC a.c)\ntarget_link_libraries(a s)\n"
      "add_executable(x m.c)\ntarget_link_libraries(x s a)\n");
  EXPECT_EQ(made.target("x")->link_items, (Words{work("libs.so"), work("liba.a"), work("libs.so")}));
}

TEST_F(PlanTest, ArchivesThatNeedEachOtherComeTwice) {
  sources({"a.c", "b.c", "m.c"});
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_library(b STATIC b.c)\ntarget_link_libraries(a b)\ntarget_link_libraries(b "
      "a)\nadd_executable(x m.c)\ntarget_link_libraries(x a)\n");
  EXPECT_EQ(made.target("x")->link_items, (Words{work("liba.a"), work("libb.a"), work("liba.a"), work("libb.a")}));
}

TEST_F(PlanTest, TheLastTargetThatAnotherNameIsGivenToCounts) {
  sources({"a.c", "b.c", "main.c"});
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_library(b STATIC b.c)\nadd_library(Clay::body ALIAS a)\n"
      "add_library(Clay::body ALIAS b)\nadd_executable(main main.c)\ntarget_link_libraries(main Clay::body)\n");
  EXPECT_EQ(made.target("main")->link_items, Words{work("libb.a")});
}

TEST_F(PlanTest, ArchivesThatAreNamedAgainAreSearchedAgain) {
  sources({"a.c", "b.c", "main.c"});
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_library(b STATIC b.c)\nadd_executable(main main.c)\n"
      "target_link_libraries(main a b a)\n");
  EXPECT_EQ(made.target("main")->link_items, (Words{work("liba.a"), work("libb.a"), work("liba.a")}));
}

TEST_F(PlanTest, OldLevelsOfTheLanguageKeepTheirRules) {
  sources({"m.c"});
  const std::string text =
      "add_executable(x m.c)\nset_property(TARGET x PROPERTY INTERPROCEDURAL_OPTIMIZATION ON)\n"
      "set(CMAKE_INTERPROCEDURAL_OPTIMIZATION_RELEASE OFF)\nadd_executable(y m.c)\n"
      "set_property(TARGET y PROPERTY INTERPROCEDURAL_OPTIMIZATION ON)\n";
  const auto now = plan(text);
  const auto link = [](const model::Plan& made, const char* name) {
    return command(made, name, model::StepKind::link);
  };
  HAS(link(now, "x"), " -flto ");
  EXPECT_EQ(link(now, "x").find("-rdynamic"), std::string::npos);
  // The configuration's own word goes first.
  EXPECT_EQ(link(now, "y").find("-flto"), std::string::npos);
  // Programs offered their symbols, and link-time optimisation was for other compilers.
  const auto old = plan("cmake_policy(VERSION 3.3)\n" + text);
  HAS(link(old, "x"), " -rdynamic ");
  EXPECT_EQ(link(old, "x").find("-flto"), std::string::npos);
}

TEST_F(PlanTest, SharedLibrariesHaveVersionsAndRunPaths) {
  sources({"a.c", "m.c"});
  const auto made = plan(
      "add_library(curve SHARED a.c)\nset_target_properties(curve PROPERTIES VERSION 2.4.1 SOVERSION 2 "
      "LIBRARY_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/libs)\nadd_executable(x m.c)\ntarget_link_libraries(x curve)\n");
  const auto* curve = made.target("curve");
  EXPECT_EQ(curve->output, work("libs/libcurve.so.2.4.1"));
  EXPECT_EQ(curve->names, (Words{work("libs/libcurve.so.2"), work("libs/libcurve.so")}));
  EXPECT_EQ(curve->shared_name, "libcurve.so.2");
  EXPECT_EQ(made.target("x")->run_path, Words{"$ORIGIN/libs"});
  const auto compile = command(made, "a.c");
  HAS(compile, " -fPIC ");
  HAS(compile, " -Dcurve_EXPORTS ");
  HAS(command(made, "libs/libcurve.so.2.4.1", model::StepKind::link), "-Wl,-soname,libcurve.so.2 ");
}

TEST_F(PlanTest, ExpressionsAreWorkedOut) {
  sources({"a.c", "b.cpp"});
  const auto made = plan(
      "add_executable(x a.c b.cpp)\ntarget_compile_definitions(x PRIVATE $<$<CONFIG:Release>:REL> "
      "$<$<CONFIG:Debug>:DEB> $<$<COMPILE_LANGUAGE:CXX>:ONLY_CXX> \"L=$<JOIN:a;b,+>\" "
      "$<$<AND:$<BOOL:ON>,$<NOT:0>>:BOTH> $<IF:$<STREQUAL:a,b>,SAME,OTHER> $<BUILD_INTERFACE:HERE> "
      "$<INSTALL_INTERFACE:THERE> N=$<TARGET_FILE_NAME:x> $<UPPER_CASE:kiln>)\n");
  const auto c = command(made, "a.c");
  for (const char* part : {" -DREL ", " -DL=a+b ", " -DBOTH ", " -DOTHER ", " -DHERE ", " -DN=x ", " -DKILN "})
    HAS(c, part);
  for (const char* part : {" -DDEB ", "ONLY_CXX", "THERE", "SAME"}) HAS_NOT(c, part);
  HAS(command(made, "b.cpp"), " -DONLY_CXX ");
}

TEST_F(PlanTest, UnknownExpressionIsRefusedWithItsPlace) {
  sources({"a.c"});
  const auto problem = refused("add_executable(x a.c)\ntarget_compile_options(x PRIVATE $<BAKE:1>)\n");
  EXPECT_EQ(problem.exit, Exit::description);
  EXPECT_EQ(problem.place.line, 4);
  HAS(problem.what, "BAKE");
}

TEST_F(PlanTest, Standards) {
  sources({"a.cpp", "b.cpp", "c.c", "d.cpp"});
  const auto made = plan(
      "add_library(a OBJECT a.cpp)\nset_target_properties(a PROPERTIES CXX_STANDARD 11 CXX_EXTENSIONS "
      "OFF)\nadd_library(b OBJECT b.cpp)\ntarget_compile_features(b PRIVATE cxx_std_20)\n"
      "add_library(c OBJECT c.c)\nset_property(TARGET c PROPERTY C_STANDARD 99)\nadd_library(d OBJECT "
      "d.cpp)\ntarget_compile_features(d PRIVATE cxx_std_11)\n");
  HAS(command(made, "a.cpp"), " -std=c++11 ");
  HAS(command(made, "b.cpp"), " -std=gnu++20 ");
  HAS(command(made, "c.c"), " -std=gnu99 ");
  HAS_NOT(command(made, "d.cpp"), "-std=");
}

TEST_F(PlanTest, RulesMakeFilesBeforeTheyAreNeeded) {
  sources({"gen.c", "m.c"});
  reading_.tree.write("in.txt", "x");
  const auto made = plan(
      "add_executable(gen gen.c)\nadd_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/table.c COMMAND gen "
      "${CMAKE_SOURCE_DIR}/in.txt > ${CMAKE_BINARY_DIR}/table.c DEPENDS in.txt)\nadd_executable(x m.c "
      "${CMAKE_BINARY_DIR}/table.c)\n");
  const auto* table = step(made, "table.c");
  ASSERT_NE(table, nullptr);
  EXPECT_EQ(table->actions.at(0).how, model::Action::How::shell);
  EXPECT_NE(std::find(table->inputs.begin(), table->inputs.end(), work("gen")), table->inputs.end());
  EXPECT_NE(std::find(table->inputs.begin(), table->inputs.end(), tree("in.txt")), table->inputs.end());
  const auto* m = step(made, "m.c");
  EXPECT_NE(std::find(m->after.begin(), m->after.end(), work("table.c")), m->after.end());
}

TEST_F(PlanTest, ToolOperationsAreDoneByTheEngine) {
  sources({"m.c"});
  const auto made = plan(
      "add_executable(x m.c)\nadd_custom_command(TARGET x POST_BUILD COMMAND ${CMAKE_COMMAND} -E copy $<TARGET_FILE:x> "
      "${CMAKE_BINARY_DIR}/y COMMAND ${CMAKE_COMMAND} -E env A=b sh -c true)\n");
  const auto* link = step(made, "x");
  ASSERT_EQ(link->actions.size(), 3U);
  EXPECT_EQ(link->actions[1].how, model::Action::How::builtin);
  EXPECT_EQ(link->actions[1].argv, (Words{"copy", work("x"), work("y")}));
  EXPECT_EQ(link->actions[2].environment.values().at("A"), "b");
}

TEST_F(PlanTest, BuildProgramsAreNeverStarted) {
  sources({"m.c"});
  HAS(refused("add_executable(x m.c)\nadd_custom_target(all_of_it ALL COMMAND make -C sub)\n").what, "build program");
  // not asked for, it stops nothing
  const auto made = plan("add_executable(x m.c)\nadd_custom_target(on_demand COMMAND make -C sub)\n");
  EXPECT_EQ(made.steps.back().actions.at(0).argv.at(0), "refuse");
}

TEST_F(PlanTest, TwoTargetsOfOneNameAreKeptApart) {
  sources({"a.c", "b.c"});
  const auto made = plan(
      "add_library(one STATIC a.c)\nadd_library(two STATIC b.c)\nset_target_properties(one two PROPERTIES OUTPUT_NAME "
      "clay)\n");
  EXPECT_NE(made.target("one")->output, made.target("two")->output);
  ASSERT_EQ(made.notes.size(), 1U);
}

TEST_F(PlanTest, ResultsNeverGoIntoTheTree) {
  sources({"a.c"});
  EXPECT_EQ(
      plan("set(CMAKE_RUNTIME_OUTPUT_DIRECTORY ${CMAKE_SOURCE_DIR}/bin)\nadd_executable(x a.c)\n").target("x")->output,
      work("bin/x"));
}

TEST_F(PlanTest, MissingSourceIsToldWithItsPlace) {
  const auto problem = refused("add_executable(x\n  gone.c)\n");
  EXPECT_EQ(problem.exit, Exit::description);
  HAS(problem.what, "gone.c");
  EXPECT_EQ(problem.place.file, "CMakeLists.txt");
}

TEST_F(PlanTest, MisspeltImportedTargetIsTold) {
  sources({"a.c"});
  HAS(refused("add_executable(x a.c)\ntarget_link_libraries(x Clay::kit)\n").what, "Clay::kit");
}

TEST_F(PlanTest, SelectionTakesWhatIsNeeded) {
  sources({"a.c", "b.c", "m.c"});
  const auto made = plan(
      "add_library(a STATIC a.c)\nadd_executable(x m.c)\ntarget_link_libraries(x a)\nadd_executable(y EXCLUDE_FROM_ALL "
      "b.c)\n");
  const auto count = [&](const Words& names) {
    const auto chosen = plan::select_steps(made, names);
    return chosen ? std::count(chosen->begin(), chosen->end(), true) : -1;
  };
  EXPECT_EQ(count({}), 4);
  EXPECT_EQ(count({"a"}), 2);
  EXPECT_EQ(count({"x"}), 4);
  EXPECT_EQ(count({"y"}), 2);
  EXPECT_EQ(count({"xx"}), -1);
}

TEST_F(PlanTest, CompileDatabaseHasEveryCompilation) {
  sources({"a.c", "b.cpp"});
  const auto made = plan("add_executable(x a.c b.cpp)\n");
  const auto database = nlohmann::json::parse(plan::compile_database(made));
  ASSERT_EQ(database.size(), 2U);
  EXPECT_EQ(database[0]["file"], tree("a.c"));
  EXPECT_TRUE(database[0]["arguments"].is_array());
}

TEST_F(PlanTest, DeclaredTestsAreWorkedOut) {
  sources({"a.c"});
  const auto made = plan(
      "enable_testing()\nadd_executable(x a.c)\nadd_test(NAME t COMMAND x --cone 6)\nset_tests_properties(t PROPERTIES "
      "TIMEOUT 5 WILL_FAIL ON ENVIRONMENT \"A=1;B=2\" PASS_REGULAR_EXPRESSION \"ok\")\nadd_test(u x)\n");
  ASSERT_EQ(made.tests.size(), 2U);
  EXPECT_EQ(made.tests[0].command, (Words{work("x"), "--cone", "6"}));
  EXPECT_EQ(made.tests[0].program, "x");
  EXPECT_TRUE(made.tests[0].will_fail);
  EXPECT_EQ(made.tests[0].environment.at("B"), "2");
  EXPECT_DOUBLE_EQ(made.tests[0].limit_seconds, 5);
}

TEST_F(PlanTest, ADeclaredTestCanUnsetAVariable) {
  const auto made = plan(
      "enable_testing()\nadd_test(NAME t COMMAND true)\nset_tests_properties(t PROPERTIES ENVIRONMENT \"A=1;B=2;C=3\" "
      "ENVIRONMENT_MODIFICATION \"A=unset:;B=reset:;C=string_append:4;D=set:5\")\n");
  ASSERT_EQ(made.tests.size(), 1U);
  const std::map<std::string, std::optional<std::string>> expected = {{"A", std::nullopt}, {"C", "34"}, {"D", "5"}};
  EXPECT_EQ(made.tests[0].environment, expected);
}

TEST_F(PlanTest, FolderCommandsReachTheirTargets) {
  sources({"a.c", "sub/b.c"});
  reading_.tree.write("sub/CMakeLists.txt", "add_library(b STATIC b.c)\nadd_definitions(-DLATE)\n");
  const auto made = plan(
      "include_directories(inc)\nadd_definitions(-DEARLY)\nadd_compile_options(-Wextra)\nset(CMAKE_C_FLAGS "
      "\"${CMAKE_C_FLAGS} -funsigned-char\")\nadd_executable(x a.c)\nadd_subdirectory(sub)\n");
  for (const char* subject : {"a.c", "sub/b.c"}) {
    const auto text = command(made, subject);
    HAS(text, " -I" + tree("inc") + " ");
    HAS(text, " -DEARLY ");
    HAS(text, " -Wextra ");
    HAS(text, " -funsigned-char ");
  }
  HAS(command(made, "sub/b.c"), " -DLATE ");
  HAS_NOT(command(made, "a.c"), "LATE");
}

TEST_F(PlanTest, SourcesWithoutTheirEndings) {
  sources({"a.c", "b.cpp"});
  const auto made = plan("add_library(x a b)\nset_property(SOURCE a APPEND_STRING PROPERTY COMPILE_FLAGS -DFIRE)\n");
  HAS(command(made, "a.c"), "-DFIRE");
  HAS_NOT(command(made, "b.cpp"), "-DFIRE");
}

TEST_F(PlanTest, FilesWrittenIntoTheTreeStandBeforeIt) {
  sources({"src/a.c"});
  reading_.tree.write("src/config.h.in", "#define X 1\n");
  const auto made = plan(
      "configure_file(src/config.h.in ${CMAKE_SOURCE_DIR}/src/config.h)\ninclude_directories(src)\nadd_library(x "
      "src/a.c)\n");
  const std::string line = command(made, "src/a.c");
  HAS(line, "-iquote " + work(".tree/src"));
  EXPECT_LT(line.find("-I" + work(".tree/src")), line.find("-I" + tree("src")));
  // Others come upon it through a header of its folder.
  HAS(line, "-idirafter " + work(".tree/src"));
}

TEST_F(PlanTest, WarningsStayWarningsUnlessTheUserWantsErrors) {
  sources({"a.c", "b.c"});
  const auto made = plan("add_library(x a.c)\ntarget_compile_options(x PRIVATE -Wall -Werror)\nadd_library(y b.c)\n");
  const std::string line = command(made, "a.c");
  EXPECT_LT(line.find("-Werror"), line.find("-Wno-error")) << line;
  HAS_NOT(command(made, "b.c"), "-Wno-error");
  EXPECT_EQ(made.notes.size(), 1U);
  auto strict = settings();
  strict.warnings_as_errors = true;
  auto project = reading_.read("add_library(x a.c)\ntarget_compile_options(x PRIVATE -Wall -Werror)\n");
  ASSERT_TRUE(project.ok());
  const auto again = plan::make_plan(*project, Reading::toolchain(), strict, reading_.tree.kiln());
  ASSERT_TRUE(again.ok());
  HAS_NOT(command(*again, "a.c"), "-Wno-error");
  EXPECT_TRUE(again->notes.empty());
}

TEST_F(PlanTest, TheOldWayToAskWhereATargetIs) {
  sources({"a.c"});
  const auto made = plan(
      "add_executable(kiln a.c)\nget_target_property(where kiln LOCATION)\n"
      "add_custom_command(TARGET kiln POST_BUILD COMMAND ${CMAKE_COMMAND} -E copy ${where} "
      "${CMAKE_CURRENT_BINARY_DIR}/bin/kiln)\n");
  ASSERT_NE(step(made, "kiln"), nullptr);
  const auto& last = step(made, "kiln")->actions.back();
  ASSERT_EQ(last.argv.size(), 3U);
  EXPECT_EQ(last.argv[1], work("kiln"));
}

TEST_F(PlanTest, TestsRunScriptsOfTheirFolder) {
  const auto made = plan(
      "enable_testing()\nfile(WRITE ${CMAKE_CURRENT_BINARY_DIR}/fire.sh \"\")\nadd_test(fire fire.sh -x)\n"
      "add_test(other sh -c true)\n");
  ASSERT_EQ(made.tests.size(), 2U);
  EXPECT_EQ(made.tests[0].command, (std::vector<std::string>{work("fire.sh"), "-x"}));
  EXPECT_EQ(made.tests[1].command.front(), "sh");
}

TEST_F(PlanTest, WhatARuleWritesIntoTheTreeIsWaitedForWhereItLies) {
  sources({"words.txt"});
  const auto made = plan(
      "add_custom_command(OUTPUT ${CMAKE_CURRENT_SOURCE_DIR}/words.txt COMMAND gather "
      "${CMAKE_CURRENT_SOURCE_DIR}/words.txt)\n"
      "add_custom_command(OUTPUT words.bin COMMAND pack words.txt DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/words.txt)\n");
  const auto* gathered = step(made, ".tree/words.txt");
  const auto* packed = step(made, "words.bin");
  ASSERT_NE(gathered, nullptr);
  ASSERT_NE(packed, nullptr);
  EXPECT_EQ(packed->inputs, gathered->outputs);
}

TEST_F(PlanTest, QuotesWithinWordsAreTheShellsUnlessVerbatim) {
  const auto made = plan(
      "add_custom_command(OUTPUT o.txt COMMAND fire --from=\"a b\" --to='o' )\n"
      "add_custom_command(OUTPUT p.txt COMMAND fire --from=\"a b\" VERBATIM)\n"
      "add_custom_command(OUTPUT q.txt COMMAND cmake -E copy a.c q.txt)\n");
  const auto& shell = made.steps.at(0).actions.at(0);
  EXPECT_EQ(shell.how, model::Action::How::shell);
  EXPECT_EQ(shell.argv.at(0), "fire --from=\"a b\" --to='o'");
  const auto& plain = made.steps.at(1).actions.at(0);
  EXPECT_EQ(plain.how, model::Action::How::process);
  EXPECT_EQ(plain.argv.at(1), "--from=\"a b\"");
  EXPECT_EQ(made.steps.at(2).actions.at(0).how, model::Action::How::builtin);
  const auto script = plan("add_custom_command(OUTPUT r.txt COMMAND ${CMAKE_COMMAND} -Din=\"a b\" -P x.cmake)\n");
  HAS(text::join(script.steps.at(0).actions.at(0).argv, "|"), "|-Din=a b|");
}

TEST_F(PlanTest, OperationsThatAreChainedAreDivided) {
  sources({"a.c"});
  const auto made = plan(
      "add_custom_command(OUTPUT o.txt COMMAND ${CMAKE_COMMAND} -E copy a.c o.txt && chmod +x o.txt)\n"
      "add_custom_command(OUTPUT p.txt COMMAND cd sub && make-nothing)\n"
      "add_custom_command(OUTPUT q.txt COMMAND ${CMAKE_COMMAND} -E echo clay > q.txt)\n");
  ASSERT_NE(step(made, "o.txt"), nullptr);
  ASSERT_EQ(step(made, "o.txt")->actions.size(), 2U);
  EXPECT_EQ(step(made, "o.txt")->actions[0].how, model::Action::How::builtin);
  EXPECT_EQ(step(made, "o.txt")->actions[1].argv.front(), "chmod");
  ASSERT_EQ(step(made, "p.txt")->actions.size(), 1U);
  EXPECT_EQ(step(made, "p.txt")->actions[0].how, model::Action::How::shell);
  HAS(step(made, "q.txt")->actions[0].argv.front(), "run-operation");
}

TEST_F(PlanTest, ScriptsAreRunByThisProgram) {
  reading_.tree.write("fire.cmake", "message(STATUS hot)\n");
  const auto made =
      plan("add_custom_command(OUTPUT o.txt COMMAND ${CMAKE_COMMAND} -DPEAK=1222 -P ${CMAKE_SOURCE_DIR}/fire.cmake)\n");
  ASSERT_NE(step(made, "o.txt"), nullptr);
  const auto& argv = step(made, "o.txt")->actions[0].argv;
  EXPECT_NE(std::find(argv.begin(), argv.end(), "run-script"), argv.end());
  EXPECT_NE(std::find(argv.begin(), argv.end(), "-DPEAK=1222"), argv.end());
  const auto& inputs = step(made, "o.txt")->inputs;
  EXPECT_NE(std::find(inputs.begin(), inputs.end(), tree("fire.cmake")), inputs.end());
}

TEST_F(PlanTest, WhatIsDoneBeforeAndBehindACustomTarget) {
  const auto made = plan(
      "add_custom_target(fire COMMAND second)\nadd_custom_command(TARGET fire POST_BUILD COMMAND third)\n"
      "add_custom_command(TARGET fire PRE_BUILD COMMAND first)\nadd_custom_target(bare)\n"
      "add_custom_command(TARGET bare COMMAND only)\n");
  const auto* fire = step(made, "fire");
  ASSERT_NE(fire, nullptr);
  ASSERT_EQ(fire->actions.size(), 4U);
  EXPECT_EQ(fire->actions[0].argv.front(), "first");
  EXPECT_EQ(fire->actions[1].argv.front(), "second");
  EXPECT_EQ(fire->actions[2].argv.front(), "third");
  const auto* bare = step(made, "bare");
  ASSERT_EQ(bare->actions.size(), 2U);
  EXPECT_TRUE(bare->always);
}

TEST_F(PlanTest, WordsInFrontOfAProgramAreItsEnvironment) {
  sources({"a.c"});
  const auto made =
      plan("add_executable(fire a.c)\nadd_custom_command(OUTPUT o.txt COMMAND PEAK=1222 CONE=6 fire o.txt)\n");
  auto action = step(made, "o.txt")->actions[0];
  EXPECT_EQ(action.environment["PEAK"], "1222");
  EXPECT_EQ(action.environment["CONE"], "6");
  EXPECT_TRUE(action.argv.front().ends_with("/fire")) << action.argv.front();
}

TEST_F(PlanTest, AnEnvironmentForAScriptOrAProgram) {
  sources({"a.c"});
  const auto made = plan(
      "add_executable(fire a.c)\n"
      "add_custom_command(OUTPUT o.txt COMMAND ${CMAKE_COMMAND} -E env PEAK=1222 cmake -P "
      "${CMAKE_SOURCE_DIR}/x.cmake)\n"
      "add_custom_command(OUTPUT p.txt COMMAND ${CMAKE_COMMAND} -E chdir /kiln ${CMAKE_COMMAND} -E env A=b fire "
      "p.txt)\n"
      "add_custom_command(OUTPUT q.txt COMMAND ${CMAKE_COMMAND} -E env --unset=CLAY fire q.txt)\n");
  auto script = step(made, "o.txt")->actions[0];
  EXPECT_NE(std::find(script.argv.begin(), script.argv.end(), "run-script"), script.argv.end());
  EXPECT_EQ(script.environment["PEAK"], "1222");
  auto program = step(made, "p.txt")->actions[0];
  EXPECT_EQ(program.folder, "/kiln");
  EXPECT_EQ(program.environment["A"], "b");
  EXPECT_TRUE(program.argv.front().ends_with("/fire")) << program.argv.front();
  const auto unsets = step(made, "q.txt")->actions[0].environment;
  ASSERT_TRUE(unsets.contains("CLAY"));
  EXPECT_EQ(unsets.values().at("CLAY"), std::nullopt);
  HAS(refused("add_custom_target(x ALL COMMAND ${CMAKE_COMMAND} -E env A=b make)\n").what, "build program");
  HAS(refused("add_custom_target(x ALL COMMAND ${CMAKE_COMMAND} -E env --modify A=set:b true)\n").what, "'--modify'");
}

TEST_F(PlanTest, ATypeInARuleForInstallingTargetsHasNoSay) {
  sources({"a.c"});
  const auto made = plan("add_executable(a a.c)\ninstall(TARGETS a TYPE RUNTIME COMPONENT tools)\n");
  ASSERT_EQ(made.install.size(), 1U);
  EXPECT_EQ(made.install[0].to, "bin/a");
}

TEST_F(PlanTest, InstalledProgramsAreKnown) {
  sources({"a.c"});
  const auto made = plan("add_executable(a a.c)\nadd_executable(b a.c)\ninstall(TARGETS a DESTINATION bin)\n");
  EXPECT_TRUE(made.target("a")->installed);
  EXPECT_FALSE(made.target("b")->installed);
}

TEST_F(PlanTest, SysrootAndLinkerGoIntoTheCommands) {
  sources({"a.c"});
  auto project = reading_.read("add_executable(a a.c)\n");
  ASSERT_TRUE(project.ok());
  auto chain = Reading::toolchain();
  chain.options = {"--sysroot=/yard"};
  chain.link_options = {"-fuse-ld=bfd"};
  auto made = plan::make_plan(*project, chain, settings(), reading_.tree.kiln());
  ASSERT_TRUE(made.ok());
  HAS(command(*made, "a.c"), "--sysroot=/yard");
  HAS_NOT(command(*made, "a.c"), "-fuse-ld");
  HAS(command(*made, "a", model::StepKind::link), "--sysroot=/yard -fuse-ld=bfd");
}

// ---- builds for another machine ------------------------------------------------------------------------------------

class HostToolsTest : public PlanTest {
 protected:
  HostToolsTest() {
    sources({"maker.c", "yard.c", "slip.c"});
    auto project = reading_.read(
        "add_library(slip STATIC slip.c)\nadd_executable(maker maker.c)\ntarget_link_libraries(maker slip)\n"
        "add_custom_command(OUTPUT t.inc COMMAND maker t.inc DEPENDS maker)\n"
        "add_executable(yard yard.c ${CMAKE_CURRENT_BINARY_DIR}/t.inc)\ntarget_link_libraries(yard slip)\n");
    EXPECT_TRUE(project.ok());
    foreign_ = Reading::toolchain();
    foreign_.foreign = true;
    foreign_.machine = "aarch64-linux-gnu";
    foreign_.compilers["C"].path = "/usr/bin/aarch64-linux-gnu-gcc";
    auto made = plan::make_plan(*project, foreign_, settings(), reading_.tree.kiln(), &Reading::toolchain());
    EXPECT_TRUE(made.ok());
    if (made) plan_ = *made;
  }
  model::Toolchain foreign_;
  model::Plan plan_;
};

TEST_F(HostToolsTest, AProgramThatRunsIsMadeForThisMachineToo) {
  const auto* rule = step(plan_, "t.inc");
  ASSERT_NE(rule, nullptr);
  EXPECT_EQ(rule->actions[0].argv.front(), work(".host/maker"));
  EXPECT_EQ(std::count(rule->inputs.begin(), rule->inputs.end(), work("maker")), 0);
  EXPECT_NE(std::count(rule->inputs.begin(), rule->inputs.end(), work(".host/maker")), 0);
  const auto* here = step(plan_, "maker (for this machine)");
  ASSERT_NE(here, nullptr);
  EXPECT_EQ(here->actions.back().argv.front(), Reading::toolchain().compiler("C").path);
  HAS(here->actions.back().text(), work(".host/libslip.a"));
  const auto* there = step(plan_, "maker");
  ASSERT_NE(there, nullptr);
  EXPECT_EQ(there->actions.back().argv.front(), foreign_.compilers["C"].path);
  ASSERT_FALSE(plan_.notes.empty());
  HAS(plan_.notes.back(), "maker runs while building");
}

TEST_F(HostToolsTest, WhatIsNotRunIsMadeOnce) {
  EXPECT_EQ(step(plan_, "yard (for this machine)"), nullptr);
  std::set<std::string> outputs;
  for (const auto& s : plan_.steps) {
    for (const auto& output : s.outputs) EXPECT_TRUE(outputs.insert(output).second) << output;
  }
}

}  // namespace
}  // namespace coctilis::test
