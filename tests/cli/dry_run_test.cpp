// build --dry-run: what would run and why, and nothing that does; and outputs that cannot be written.
#include <nlohmann/json.hpp>

#include "base/text.h"
#include "support.h"

namespace coctilis::test {
namespace {

class DryRun : public DrivenTree {
 protected:
  void SetUp() override {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_library(clay STATIC clay.c)\n"
               "add_executable(fire fire.c)\ntarget_link_libraries(fire clay)\nadd_executable(cone cone.c)\n");
    tree.write("clay.h", "int clay(void);\n");
    tree.write("clay.c", "#include \"clay.h\"\nint clay(void) { return 6; }\n");
    tree.write("fire.c", "#include \"clay.h\"\nint main(void) { return clay() - 6; }\n");
    tree.write("cone.c", "int main(void) { return 0; }\n");
  }
  [[nodiscard]] std::vector<std::string> runs() const { return files::names_in(tree.label_folder() + "/runs"); }
};

TEST_F(DryRun, TellsWhatWouldRunAndRunsNothing) {
  auto said = run("build", {"--dry-run"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("would compile clay.c (first build)"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("nothing was built"), std::string::npos) << said.all();
  EXPECT_FALSE(files::exists(tree.label_folder() + "/work/fire"));
  EXPECT_TRUE(runs().empty()) << "no run is recorded";
  ASSERT_EQ(run("build").exit, 0);
  said = run("build", {"--dry-run"});
  EXPECT_NE(said.all().find("no step would run, 6 up to date"), std::string::npos) << said.all();
  tree.write("clay.c", "#include \"clay.h\"\nint clay(void) { return 7; }\n");
  said = run("build", {"--dry-run"});
  EXPECT_NE(said.all().find("would compile clay.c (clay.c has changed)"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("perhaps archive libclay.a (if what clay.c comes to is another)"), std::string::npos)
      << said.all();
  EXPECT_NE(said.all().find("perhaps link fire"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("cone"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("1 step would run, 2 more perhaps, 3 up to date"), std::string::npos) << said.all();
  EXPECT_EQ(runs().size(), 2U) << "one, and the name of the latest";
  // What it says comes true.
  said = run("build");
  EXPECT_NE(said.all().find("3 steps"), std::string::npos) << said.all();
}

TEST_F(DryRun, OfOneTargetAndForMachines) {
  ASSERT_EQ(run("build").exit, 0);
  tree.write("clay.h", "int clay(void);\n#define CLAY 1\n");
  auto said = run("build", {"--dry-run", "clay"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said.all().find("fire"), std::string::npos) << said.all();
  said = run("bringup", {"--dry-run", "--json"});
  ASSERT_EQ(said.exit, 0) << said.all();
  const auto json = nlohmann::json::parse(said.out);
  std::vector<std::string> sure;
  for (const auto& one : json["due"]) {
    if (!one["perhaps"].get<bool>()) sure.push_back(one["subject"]);
  }
  EXPECT_EQ(sure, (std::vector<std::string>{"clay.c", "fire.c"}));
  EXPECT_EQ(json["up_to_date"], 2);
}

TEST_F(DryRun, OfAMakefileAndOfWhatDoesNotComeUp) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile", "all: fire\nfire: fire.o clay.o\n\t$(CC) -o $@ $^\n");
  auto said = run("build", {"--dry-run"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("3 steps would run"), std::string::npos) << said.all();
  ASSERT_EQ(run("build").exit, 0);
  tree.write("clay.h", "int clay(void);\n#define CLAY 1\n");
  said = run("build", {"--dry-run"});
  EXPECT_NE(said.all().find("2 steps would run, 1 more perhaps"), std::string::npos) << said.all();
  tree.write("Makefile", "all: fire\nfire: none.o\n\t$(CC) -o $@ $^\n");
  EXPECT_EQ(run("build", {"--dry-run"}).exit, 4);
}

// Runs "coctilis WORDS" with what a shell does to its output.
Ended shelled(const std::string& words, const std::string& behind) {
  Command command;
  command.argv = {"sh", "-c", text::shell_quote(std::getenv("COCTILIS_PROGRAM")) + " " + words + " " + behind};
  return coctilis::run(command);
}

TEST_F(DryRun, AnOutputThatIsFullIsToldAsSuch) {
  const auto said = shelled("survey " + text::shell_quote(tree.path()) + " --json", ">/dev/full");
  EXPECT_EQ(said.code, 7) << said.output;
  EXPECT_NE(said.output.find("what this command has to say cannot be written"), std::string::npos) << said.output;
  EXPECT_EQ(shelled("--help", ">/dev/full").code, 7);
  EXPECT_EQ(shelled("--version", ">/dev/full").code, 7);
}

TEST_F(DryRun, AReaderThatGoesAwayEndsNoRun) {
  tree.write("clay.c", "int clay(void) { return 7 }\n");
  // It fails, and would have much to say to nobody.
  const auto said =
      shelled("build " + text::shell_quote(tree.path()) + " --kiln " + text::shell_quote(tree.kiln()) + " -v",
              "2>&1 | true; test -d " + text::shell_quote(tree.kiln()) + "/*/runs/1");
  EXPECT_EQ(said.code, 0) << "its record is there: " << said.output;
  EXPECT_EQ(said.output.find("Aborted"), std::string::npos) << said.output;
}

}  // namespace
}  // namespace coctilis::test
