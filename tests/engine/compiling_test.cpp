// Steps that compile: with real compilers, through the whole of plan and engine.
#include "describe/reader.h"
#include "engine/engine.h"
#include "plan/planner.h"

namespace coctilis::test {
namespace {

class Quiet : public engine::Observer {
 public:
  void step_ended(std::size_t, const model::StepResult&) override {}
  void progress(const engine::Progress&) override {}
};

class Compiling : public testing::Test {
 protected:
  model::Outcome build(const std::string& text) {
    auto project = reading_.read(text);
    EXPECT_TRUE(project.ok()) << (project.ok() ? "" : project.problem().what);
    model::Settings settings;
    settings.variants["release"] = {"release", "release", {}, {}};
    auto plan = plan::make_plan(*project, Reading::toolchain(), settings, reading_.tree.kiln());
    EXPECT_TRUE(plan.ok()) << (plan.ok() ? "" : plan.problem().what);
    plan_ = *plan;
    Quiet quiet;
    auto outcome = engine::build(plan_, {*plan::select_steps(plan_, {}), 2, false, false}, quiet);
    EXPECT_TRUE(outcome.ok()) << (outcome.ok() ? "" : outcome.problem().what);
    for (const auto index : outcome->failures) ADD_FAILURE() << outcome->steps[index].output;
    return *outcome;
  }
  std::string output_of(const std::string& target) {
    Command command;
    command.argv = {plan_.target(target)->output};
    const Ended ended = run(command);
    return ended.good() ? ended.output : ended.text();
  }
  Reading reading_;
  model::Plan plan_;
};

TEST_F(Compiling, LibrariesOfAllKindsWorkTogether) {
  reading_.tree.write("clay.c", "int clay(void) { return 6; }\n");
  reading_.tree.write("glaze.cpp", "extern \"C\" int clay(void);\nint glaze() { return clay() * 7; }\n");
  reading_.tree.write("fire.c", "int fire(void) { return 1; }\n");
  reading_.tree.write("m.cpp",
                      "#include <cstdio>\nint glaze();\nextern \"C\" int fire(void);\nint main() { std::printf(\"%d\", "
                      "glaze() + fire()); }\n");
  build(
      "add_library(clay STATIC clay.c)\nset_target_properties(clay PROPERTIES POSITION_INDEPENDENT_CODE "
      "ON)\nadd_library(glaze SHARED glaze.cpp)\ntarget_link_libraries(glaze PRIVATE clay)\n"
      "add_library(fire OBJECT fire.c)\nadd_executable(m m.cpp $<TARGET_OBJECTS:fire>)\ntarget_link_libraries(m "
      "PRIVATE glaze)\n");
  EXPECT_EQ(output_of("m"), "43");
}

TEST_F(Compiling, GeneratedSourcesAndHeaders) {
  reading_.tree.write("gen.c",
                      "#include <stdio.h>\nint main(int c, char** v) { FILE* f = fopen(v[1], \"w\"); fprintf(f, "
                      "\"#define CONE %d\\n\", c + 4); return fclose(f); }\n");
  reading_.tree.write("m.c",
                      "#include <stdio.h>\n#include \"cone.h\"\nint main(void) { printf(\"%d\", CONE); return 0; }\n");
  const char* const text =
      "add_executable(gen gen.c)\nadd_custom_command(OUTPUT cone.h COMMAND gen ${CMAKE_CURRENT_BINARY_DIR}/cone.h "
      "DEPENDS gen)\n"
      "add_executable(m m.c ${CMAKE_CURRENT_BINARY_DIR}/cone.h)\ntarget_include_directories(m PRIVATE "
      "${CMAKE_CURRENT_BINARY_DIR})\n";
  build(text);
  EXPECT_EQ(output_of("m"), "6");
  EXPECT_EQ(build(text).ran, 0U);
  // The generator changes: what it makes is made again, and what includes that.
  reading_.tree.write("gen.c",
                      "#include <stdio.h>\nint main(int c, char** v) { FILE* f = fopen(v[1], \"w\"); fprintf(f, "
                      "\"#define CONE %d\\n\", c + 8); return fclose(f); }\n");
  EXPECT_EQ(build(text).ran, 5U);
  EXPECT_EQ(output_of("m"), "10");
}

TEST_F(Compiling, HeaderThatChangesRecompilesWhatIncludesIt) {
  reading_.tree.write("inc/cone.h", "#define CONE 5\n");
  reading_.tree.write("a.c", "#include <cone.h>\nint a(void) { return CONE; }\n");
  reading_.tree.write("m.c", "#include <stdio.h>\nint a(void);\nint main(void) { printf(\"%d\", a()); return 0; }\n");
  const char* const text = "include_directories(inc)\nadd_executable(m a.c m.c)\n";
  EXPECT_EQ(build(text).ran, 3U);
  reading_.tree.write("inc/cone.h", "#define CONE 7\n");
  EXPECT_EQ(build(text).ran, 2U);
  EXPECT_EQ(output_of("m"), "7");
}

TEST_F(Compiling, SharedLibraryBehindASharedLibrary) {
  reading_.tree.write("a.c", "int a(void) { return 3; }\n");
  reading_.tree.write("b.c", "int a(void);\nint b(void) { return a() + 1; }\n");
  reading_.tree.write("m.c", "#include <stdio.h>\nint b(void);\nint main(void) { printf(\"%d\", b()); return 0; }\n");
  build(
      "add_library(a SHARED a.c)\nset_target_properties(a PROPERTIES LIBRARY_OUTPUT_DIRECTORY "
      "${CMAKE_BINARY_DIR}/one)\nadd_library(b SHARED b.c)\ntarget_link_libraries(b PRIVATE a)\n"
      "set_target_properties(b PROPERTIES LIBRARY_OUTPUT_DIRECTORY ${CMAKE_BINARY_DIR}/two)\nadd_executable(m "
      "m.c)\ntarget_link_libraries(m b)\n");
  EXPECT_EQ(output_of("m"), "4");
}

TEST_F(Compiling, CommandsAfterLinking) {
  reading_.tree.write("m.c", "int main(void) { return 0; }\n");
  build(
      "add_executable(m m.c)\nadd_custom_command(TARGET m POST_BUILD COMMAND ${CMAKE_COMMAND} -E copy $<TARGET_FILE:m> "
      "${CMAKE_BINARY_DIR}/copy)\n");
  EXPECT_TRUE(files::is_program(reading_.tree.kiln() + "/work/copy"));
}

TEST_F(Compiling, ArchiveForgetsWhatIsNoLongerInIt) {
  for (const char* name : {"a.c", "b.c"})
    reading_.tree.write(name, std::string("int ") + name[0] + "_brick(void) { return 0; }\n");
  build("add_library(x STATIC a.c b.c)\n");
  EXPECT_NE(files::read(plan_.target("x")->output)->find("b_brick"), std::string::npos);
  build("add_library(x STATIC a.c)\n");
  EXPECT_EQ(files::read(plan_.target("x")->output)->find("b_brick"), std::string::npos);
}

// Headers that are to be compiled ahead are: once a language, and every source gets them and what changes in them.
TEST_F(Compiling, HeadersAheadOfEverySource) {
  reading_.tree.write("cones.h", "#define PEAK 1222\n");
  for (const char* name : {"a.cpp", "b.cpp", "c.cpp"})
    reading_.tree.write(name, std::string("int peak_") + name[0] + "() { return PEAK + (int)std::string().size(); }\n");
  reading_.tree.write("main.cpp",
                      "int peak_a(); int peak_b(); int peak_c();\n"
                      "int main() { std::printf(\"%d\\n\", peak_a() + peak_b() + peak_c()); }\n");
  const std::string text =
      "add_executable(fire main.cpp a.cpp b.cpp c.cpp)\n"
      "target_precompile_headers(fire PRIVATE <string> <cstdio> cones.h)\n";
  build(text);
  EXPECT_EQ(output_of("fire"), "3666\n");
  std::size_t ahead = 0;
  for (const auto& step : plan_.steps) ahead += step.outputs.front().ends_with(".gch") ? 1 : 0;
  EXPECT_EQ(ahead, 1U);
  EXPECT_EQ(build(text).ran, 0U);
  reading_.tree.write("cones.h", "#define PEAK 1000\n");
  build(text);
  EXPECT_EQ(output_of("fire"), "3000\n");
}

}  // namespace
}  // namespace coctilis::test
