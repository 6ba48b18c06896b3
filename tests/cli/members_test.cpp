// Trees of several descriptions, named in coctilis.toml: brought up in that order, each seeing what those before
// install.
#include "support.h"

namespace coctilis::test {
namespace {

class Members : public testing::Test {
 protected:
  Members() {
    name(R"("core", "tools/Makefile", "viewer")");
    tree.write("core/CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(claycore C)\nadd_library(claycore SHARED core.c)\n"
               "target_include_directories(claycore PUBLIC $<INSTALL_INTERFACE:include>)\n"
               "install(TARGETS claycore EXPORT claycore LIBRARY DESTINATION lib)\n"
               "install(FILES claycore.h DESTINATION include)\n"
               "install(EXPORT claycore DESTINATION lib/cmake/claycore FILE claycore-config.cmake)\n");
    tree.write("core/core.c", "int cone(void) { return 1222; }\n");
    tree.write("core/claycore.h", "int cone(void);\n");
    tree.write("tools/Makefile",
               "prefix = /usr/local\nall: weigh\nweigh: weigh.c\n\t$(CC) -o $@ $<\ninstall: all\n"
               "\tinstall -D weigh $(DESTDIR)$(prefix)/bin/weigh\n");
    tree.write("tools/weigh.c", "#include <stdio.h>\nint main(void) { puts(\"weigh\"); return 0; }\n");
    tree.write("viewer/CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(viewer C)\nfind_package(claycore REQUIRED)\n"
               "find_program(WEIGH weigh REQUIRED)\nadd_executable(viewer viewer.c)\n"
               "target_link_libraries(viewer claycore)\n");
    tree.write("viewer/viewer.c",
               "#include <claycore.h>\n#include <stdio.h>\n"
               "int main(void) { printf(\"%d\\n\", cone()); return 0; }\n");
  }
  void name(const std::string& components) {
    tree.write("coctilis.toml", "[tree]\ncomponents = [" + components + "]\n");
  }
  Said run(const std::string& command, const std::vector<std::string>& more = {}) {
    std::vector<std::string> words = {command, tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    return coctilis(words);
  }
  std::string viewed() const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/viewer"};
    return coctilis::run(command).output;
  }
  TreeFolder tree;
};

TEST_F(Members, ComeUpInOrderInOneRun) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(viewed(), "1222\n");
  EXPECT_TRUE(files::exists(tree.label_folder() + "/bin/weigh"));
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libclaycore.so"));
  const auto members = tree.record()["members"];
  ASSERT_EQ(members.size(), 3U);
  EXPECT_EQ(members[0]["name"], "core");
  EXPECT_EQ(members[1]["description"], "tools/Makefile");
  EXPECT_EQ(members[2]["exit"], 0);
  EXPECT_GE(members[2]["began"].get<double>(), members[0]["began"].get<double>());
  EXPECT_EQ(members[0]["targets"][0]["name"], "claycore");
  EXPECT_FALSE(members[2]["needs"].empty());
  EXPECT_EQ(members[0]["installed"].size(), 3U);
  EXPECT_EQ(tree.record()["checks"][0]["name"], "core: claycore loads");
  // The screen and the report have a table of them.
  EXPECT_NE(said.all().find("member viewer: passed, by CMakeLists.txt"), std::string::npos) << said.all();
  const std::string page = files::read(tree.label_folder() + "/runs/latest/report.html").value_or("");
  const auto link = page.find("href=\"../../members/core/");
  ASSERT_NE(link, std::string::npos);
  const std::string target = page.substr(link + 6, page.find('"', link + 6) - link - 6);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/runs/1/" + target)) << target;
  // Nothing is built again, and nothing lies in the tree.
  ASSERT_EQ(run("build").exit, 0);
  const auto again = tree.record();
  EXPECT_EQ(again["members"].size(), 3U);
  for (const auto& member : again["members"]) EXPECT_EQ(member["ran"], 0) << member;
  EXPECT_FALSE(files::exists(tree.path("core/kiln")));
}

TEST_F(Members, AChangeReachesThoseBehind) {
  ASSERT_EQ(run("build").exit, 0);
  tree.write("core/core.c", "int cone(void) { return 1230; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(viewed(), "1230\n");
  tree.write("core/claycore.h", "int cone(void);\n#define cone() 7\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(viewed(), "7\n");
}

TEST_F(Members, OfOneThatFailsThoseThatNeedItAreNotBegun) {
  tree.write("core/core.c", "int cone(void) { oops }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5);
  EXPECT_NE(said.all().find("core: failed"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("oops"), std::string::npos);
  const auto members = tree.record()["members"];
  ASSERT_EQ(members.size(), 3U);
  EXPECT_EQ(members[1]["exit"], 0);
  EXPECT_EQ(members[2]["problem"]["what"], "needs core");
  EXPECT_EQ(tree.record()["problem"]["exit"], 5);
  EXPECT_EQ(tree.record()["problem"]["what"].get<std::string>().find("core: "), 0U);
}

TEST_F(Members, WithoutTheFirstTheLastLacksIt) {
  name(R"("viewer")");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3);
  EXPECT_NE(said.all().find("claycore"), std::string::npos) << said.all();
}

TEST_F(Members, SettingsOfTheWholeAndTheirOwnHold) {
  tree.write("coctilis.toml", "[tree]\ncomponents = [\"viewer\"]\n[options]\nGLAZE = \"salt\"\nHUE = \"red\"\n");
  tree.write("viewer/coctilis.toml", "[options]\nHUE = \"blue\"\n");
  tree.write("viewer/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(viewer C)\nset(GLAZE none CACHE STRING \"\")\n"
             "set(HUE none CACHE STRING \"\")\nadd_executable(viewer plain.c)\n"
             "target_compile_definitions(viewer PRIVATE GLAZE=\"${GLAZE} ${HUE}\")\n");
  tree.write("viewer/plain.c", "#include <stdio.h>\nint main(void) { puts(GLAZE); return 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(viewed(), "salt blue\n");
}

TEST_F(Members, StagedTheyLieInThePrefixThatWasAskedFor) {
  const std::string prefix = tree.scratch() + "/prefix";
  tree.write("core/note.in", "@CMAKE_INSTALL_PREFIX@\n");
  tree.write("core/CMakeLists.txt", tree.read("core/CMakeLists.txt") +
                                        "configure_file(note.in note @ONLY)\n"
                                        "install(FILES ${CMAKE_BINARY_DIR}/note DESTINATION share)\n");
  tree.write("viewer/CMakeLists.txt", tree.read("viewer/CMakeLists.txt") + "install(TARGETS viewer DESTINATION bin)\n");
  const auto said = run("stage", {"--prefix", prefix});
  ASSERT_EQ(said.exit, 0) << said.all();
  for (const char* name : {"/bin/viewer", "/bin/weigh", "/lib/libclaycore.so", "/include/claycore.h"})
    EXPECT_TRUE(files::exists(prefix + name)) << name;
  EXPECT_EQ(files::read(prefix + "/share/note").value_or(""), prefix + "\n");
  Command command;
  command.argv = {prefix + "/bin/viewer"};
  EXPECT_EQ(coctilis::run(command).output, "1222\n");
}

TEST_F(Members, NamedTheyComeUpWithThoseBefore) {
  ASSERT_EQ(run("build", {"tools/Makefile"}).exit, 0);
  EXPECT_EQ(tree.record()["members"].size(), 2U);
  const auto said = run("build", {"cellar"});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("there is no member 'cellar'"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("core, tools/Makefile, viewer"), std::string::npos) << said.all();
}

TEST_F(Members, ChecksOfTheWholeRunProgramsOfAll) {
  tree.write("coctilis.toml", tree.read("coctilis.toml") +
                                  "[[smoke]]\nname = \"peak\"\nrun = [\"viewer\"]\nexpect = { output = \"1222\" }\n"
                                  "[[smoke]]\nname = \"low\"\nrun = [\"viewer\"]\nexpect = { output = \"900\" }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("low: its output does not contain '900'"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("peak: "), std::string::npos) << said.all();
}

TEST_F(Members, WithNothingToDoEachRepeatsItsLastRun) {
  for (int i = 0; i < 3; ++i) ASSERT_EQ(run("build").exit, 0);
  const auto core = nlohmann::json::parse(files::read(tree.label_folder() + "/members/core/" +
                                                      std::filesystem::path(tree.label_folder()).filename().string() +
                                                      "/runs/latest/run.json")
                                              .value_or("{}"));
  EXPECT_TRUE(core.contains("repeats")) << core.dump().substr(0, 400);
  const auto members = tree.record()["members"];
  EXPECT_EQ(members[0]["steps"], 2);
  EXPECT_EQ(members[0]["installed"].size(), 3U);
  // What somebody takes from the prefix is put back.
  const std::string header = tree.label_folder() + "/installed/core/include/claycore.h";
  ASSERT_TRUE(files::is_file(header));
  std::filesystem::remove(header);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(header));
  files::write(header, "#error spoilt\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(header).value_or(""), "int cone(void);\n");
  // A file that no step reads is installed all the same.
  tree.write("core/CMakeLists.txt", tree.read("core/CMakeLists.txt") + "install(FILES note.txt DESTINATION share)\n");
  tree.write("core/note.txt", "one\n");
  for (int i = 0; i < 3; ++i) ASSERT_EQ(run("build").exit, 0);
  tree.write("core/note.txt", "two\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(tree.label_folder() + "/installed/core/share/note.txt").value_or(""), "two\n");
  // Also when it lies beside the member, where its own survey does not look.
  tree.write("core/CMakeLists.txt",
             tree.read("core/CMakeLists.txt") +
                 "install(FILES ../beside.txt DESTINATION share)\ninstall(DIRECTORY ../more/ DESTINATION share)\n");
  tree.write("beside.txt", "one\n");
  tree.write("more/first.txt", "one\n");
  for (int i = 0; i < 3; ++i) ASSERT_EQ(run("build").exit, 0);
  tree.write("beside.txt", "two\n");
  tree.write("more/first.txt", "two\n");
  ASSERT_EQ(run("build").exit, 0);
  for (const char* file : {"beside.txt", "first.txt"})
    EXPECT_EQ(files::read(tree.label_folder() + "/installed/core/share/" + file).value_or(""), "two\n") << file;
  for (int i = 0; i < 2; ++i) ASSERT_EQ(run("build").exit, 0);
  tree.write("more/second.txt", "one\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/installed/core/share/second.txt"));
}

// Nobody asked for these to be installed.
TEST_F(Members, InstallRulesOfRecipesAreConfined) {
  const TreeFolder home;
  tree.write("tools/Makefile", tree.read("tools/Makefile") + "\techo out > " + home.path("out") + "\n");
  name(R"("tools", "core")");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("what tools installs is not there for those that need it"), std::string::npos)
      << said.all();
  EXPECT_FALSE(files::exists(home.path("out")));
}

TEST_F(Members, TheirCompileDatabasesAreOne) {
  ASSERT_EQ(run("build").exit, 0);
  const auto database =
      nlohmann::json::parse(files::read(tree.label_folder() + "/compile_commands.json").value_or("[]"));
  std::set<std::string> names;
  for (const auto& entry : database)
    names.insert(std::filesystem::path(entry["file"].get<std::string>()).filename().string());
  EXPECT_EQ(names, (std::set<std::string>{"core.c", "weigh.c", "viewer.c"}));
}

TEST_F(Members, WhyKnowsWhatTheyKnow) {
  ASSERT_EQ(run("build").exit, 0);
  auto said = coctilis({"why", "core.c", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("core: "), std::string::npos) << said.all();
  said = coctilis({"why", "claycore", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  // The one that makes it and the one that looks for it.
  EXPECT_NE(said.all().find("core: "), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("viewer: "), std::string::npos) << said.all();
  said = coctilis({"why", "claycor", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("did you mean 'claycore'?"), std::string::npos) << said.all();
}

TEST_F(Members, ThePlanIsThatOfAll) {
  const auto said = run("plan", {"--json"});
  ASSERT_EQ(said.exit, 0) << said.all();
  const auto members = nlohmann::json::parse(said.out)["members"];
  ASSERT_EQ(members.size(), 3U);
  EXPECT_EQ(members[0]["targets"][0]["name"], "claycore");
  EXPECT_EQ(members[2]["targets"][0]["name"], "viewer");
  EXPECT_FALSE(members[1]["steps"].empty());
}

TEST_F(Members, ASurveyCountsThem) {
  const auto said = coctilis({"survey", tree.path()});
  EXPECT_EQ(said.exit, 0);
  EXPECT_NE(said.all().find("3 members"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("nothing here says"), std::string::npos) << said.all();
}

TEST_F(Members, LinksThatLeadOutAreNone) {
  const TreeFolder other;
  other.write("CMakeLists.txt", "project(other NONE)\n");
  std::filesystem::create_directory_symlink(other.path(), tree.path("linked"));
  name(R"("linked")");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("lies outside of the tree"), std::string::npos) << said.all();
}

TEST_F(Members, WrongNamesAreToldWithTheirPlace) {
  for (const char* bad : {"\"cellar\"", "\"../elsewhere\"", "\"core\", \"core\"", "\"/etc\"", "3"}) {
    name(bad);
    const auto said = run("build");
    EXPECT_EQ(said.exit, 2) << bad << said.all();
    EXPECT_NE(said.all().find("coctilis.toml:2"), std::string::npos) << said.all();
  }
}

}  // namespace
}  // namespace coctilis::test
