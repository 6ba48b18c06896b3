// What makes the command line a pleasure: settings of the user's, completion, watching, manual pages, and "why" of what
// is no thing of the description itself.
#include "support.h"

namespace coctilis::test {
namespace {

class UserFile : public DrivenTree {
 protected:
  UserFile() { write_small_tree(tree); }
  void say(const std::string& text) const { files::write(tree.scratch() + "/config/coctilis/config.toml", text); }
  Said by_user(std::vector<std::string> arguments) const {
    return coctilis(arguments, {{"XDG_CONFIG_HOME", tree.scratch() + "/config"}}, tree.path());
  }
};

TEST_F(UserFile, SettingsTellsEveryValueAndItsPlace) {
  say("jobs = 3\nload = 4.5\ntoolchain = \"gcc >= 4\"\nwith = [\"" + tree.scratch() + "\"]\n");
  tree.write("coctilis.toml", "[options]\nCONE = \"7\"\n[sandbox]\nmemory = \"2 GB\"\n[tree]\nheader-times = true\n");
  std::map<std::string, std::pair<std::string, std::string>> all;
  const auto listed = by_user({"settings", "--json"}).json();
  for (const auto& one : listed["values"]) all[one["name"]] = {one["value"], one["from"]};
  EXPECT_EQ(all["jobs"].first, "3");
  EXPECT_TRUE(all["jobs"].second.ends_with("config.toml:1:8")) << all["jobs"].second;
  EXPECT_EQ(all["load"].first, "4.5");
  EXPECT_EQ(all["toolchain"].first, "gcc >= 4");
  EXPECT_EQ(all["with"].first, tree.scratch());
  EXPECT_EQ(all["option CONE"], (std::pair<std::string, std::string>("7", "coctilis.toml:2")));
  EXPECT_EQ(all["limit of memory"], (std::pair<std::string, std::string>("2.0 GB", "coctilis.toml:4")));
  EXPECT_EQ(all["header-times"], (std::pair<std::string, std::string>("yes", "coctilis.toml:6")));
  EXPECT_EQ(all["compile-commands"], (std::pair<std::string, std::string>("no", "default")));
  EXPECT_EQ(all["limit of processes"].second, "default");
  EXPECT_NE(by_user({"settings"}).out.find("jobs"), std::string::npos);
}

TEST_F(UserFile, TheCommandLineAndTheTreeComeFirst) {
  say("toolchain = \"no-such-compiler\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 3);
  EXPECT_EQ(by_user({"build", "--toolchain", "gcc"}).exit, 0);
  tree.write("coctilis.toml", "[toolchain]\nc = \"gcc\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 0);
}

TEST_F(UserFile, APrefixOfItIsCalledWhatItIs) {
  files::write(tree.scratch() + "/kit/lib/pkgconfig/clay.pc", "Name: clay\nDescription: c\nVersion: 2.5\nLibs: -lm\n");
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nfind_package(PkgConfig REQUIRED)\n"
             "pkg_check_modules(CLAY REQUIRED clay)\nadd_executable(kiln kiln.c)\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  EXPECT_EQ(by_user({"locate"}).exit, 3);
  say("with = [\"" + tree.scratch() + "/kit\"]\n");
  const auto said = by_user({"locate"});
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto why = by_user({"why", "clay"});
  EXPECT_NE(why.all().find("this place comes first because of " + tree.scratch()), std::string::npos) << why.all();
}

TEST_F(UserFile, KitsThatTreesNeedByNameAreWhereItSays) {
  files::make_folder(tree.scratch() + "/firekit-3.2");
  tree.write("coctilis.toml", "[[need]]\nkit = \"firekit\"\nversion = \">= 3\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 3);
  say("[kits]\nfirekit = \"" + tree.scratch() + "/firekit-3.2\"\n");
  const auto said = by_user({"build"});
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto why = by_user({"why", "firekit"});
  EXPECT_NE(why.all().find("config.toml:2:11"), std::string::npos) << why.all();
  const auto listed = by_user({"settings"}).out;
  EXPECT_NE(listed.find("kit firekit"), std::string::npos) << listed;
  // A run that would be repeated sees that it is another now, and what the tree says comes first.
  files::make_folder(tree.scratch() + "/firekit-2.9");
  say("[kits]\nfirekit = \"" + tree.scratch() + "/firekit-2.9\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 3);
  tree.write("coctilis.local.toml", "[[need]]\nkit = \"firekit\"\nprefix = \"" + tree.scratch() + "/firekit-3.2\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 0);
}

TEST_F(UserFile, MirrorsAreListedAndChecked) {
  say("[mirrors]\n\"https://brickyard.example/\" = \"/srv/copies/\"\n");
  const auto listed = by_user({"settings"}).out;
  EXPECT_NE(listed.find("mirror of https://brickyard.example/"), std::string::npos) << listed;
  EXPECT_NE(listed.find("/srv/copies/"), std::string::npos) << listed;
  say("[mirrors]\n\"\" = \"/srv/copies/\"\n");
  EXPECT_EQ(by_user({"settings"}).exit, 2);
  say("[kits]\nfirekit = \"/no/such/folder\"\n");
  const auto said = by_user({"settings"});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("is no folder"), std::string::npos) << said.all();
}

TEST_F(UserFile, AMistakeInItIsToldWithItsPlace) {
  say("jbs = 3\n");
  auto said = by_user({"build"});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("config.toml:1:1: unknown key 'jbs'"), std::string::npos) << said.all();
  say("jobs = [\n");
  EXPECT_EQ(by_user({"build"}).exit, 2);
  // A letter of a script of which the TOML library holds that it cannot stand there.
  say("jobs = \xCF\x96\xEA\xBF\x9F 3\n");
  EXPECT_EQ(by_user({"build"}).exit, 2);
  say("colour = \"mauve\"\n");
  EXPECT_EQ(by_user({"build"}).exit, 2);
}

TEST_F(UserFile, ColourWhenItIsAskedFor) {
  EXPECT_EQ(by_user({"build"}).out.find('\x1b'), std::string::npos);
  EXPECT_NE(by_user({"build", "--colour", "always"}).out.find('\x1b'), std::string::npos);
  say("colour = \"always\"\n");
  EXPECT_NE(by_user({"build"}).out.find('\x1b'), std::string::npos);
  EXPECT_EQ(by_user({"build", "--colour", "never"}).out.find('\x1b'), std::string::npos);
  EXPECT_EQ(by_user({"build", "--colour", "mauve"}).exit, 2);
}

TEST_F(UserFile, WithALoadThatIsAlwaysExceededItIsBuiltAllTheSame) {
  EXPECT_EQ(by_user({"build", "--load", "0.000001"}).exit, 0);
  EXPECT_EQ(by_user({"build", "--load", "-1"}).exit, 2);
}

// ---- completion -----------------------------------------------------------------------------------------------------

class Completing : public DrivenTree {
 protected:
  Completing() {
    tree.write(
        "CMakeLists.txt",
        "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nenable_testing()\noption(CLAY_WET \"wet\" ON)\n"
        "add_executable(kiln kiln.c)\nadd_executable(\"press two\" kiln.c)\nadd_test(NAME warm COMMAND kiln)\n");
    tree.write("kiln.c", "int main(void) { return 0; }\n");
  }
  [[nodiscard]] std::string at(const std::vector<std::string>& words) const {
    std::vector<std::string> arguments = {"complete", std::to_string(words.size() - 1)};
    arguments.insert(arguments.end(), words.begin(), words.end());
    return coctilis(arguments, {}, tree.path()).out;
  }
};

TEST_F(Completing, CommandsAndOptionsAreThoseOfTheCommandLine) {
  EXPECT_EQ(at({"coctilis", "sm"}), "smoke\n");
  EXPECT_EQ(at({"coctilis", "run-"}), "");
  EXPECT_EQ(at({"coctilis", "build", "--past"}), "--past-failures\n");
  EXPECT_EQ(at({"coctilis", "build", "--colour", "al"}), "always\n");
  EXPECT_EQ(at({"coctilis", "no-such", ""}), "");
  EXPECT_EQ(at({"coctilis", "build", ""}), "");  // nothing is known of the tree yet
}

TEST_F(Completing, NamesAreThoseOfTheTree) {
  ASSERT_EQ(coctilis({"bringup", tree.path()}).exit, 0);
  EXPECT_EQ(at({"coctilis", "build", ""}), "kiln\npress two\n");
  EXPECT_EQ(at({"coctilis", "smoke", "w"}), "warm\n");
  EXPECT_EQ(at({"coctilis", "build", "--set", "CL"}), "CLAY_WET=\n");
  EXPECT_EQ(at({"coctilis", "bringup", "--variant", "de"}), "debug\n");
  EXPECT_EQ(at({"coctilis", "report", "--run", ""}), "1\n");
  EXPECT_EQ(at({"coctilis", "why", "kiln."}), "kiln.c\n");
  // A run that ends before there is a plan takes nothing away.
  tree.write("CMakeLists.txt", "project(brickyard C)\nmessage(FATAL_ERROR \"cold\")\n");
  ASSERT_EQ(coctilis({"build", tree.path()}).exit, 4);
  EXPECT_EQ(at({"coctilis", "build", ""}), "kiln\npress two\n");
  EXPECT_EQ(at({"coctilis", "smoke", "w"}), "warm\n");
  const auto from_elsewhere = coctilis({"complete", "3", "coctilis", "build", tree.path(), "k"});
  EXPECT_EQ(from_elsewhere.out, "kiln\n");
}

TEST_F(Completing, TheScriptOfTheShellCallsIt) {
  ASSERT_EQ(coctilis({"build", tree.path()}).exit, 0);
  Command command;
  command.argv = {"bash", "-c",
                  "coctilis() { $COCTILIS_PROGRAM \"$@\"; }; complete() { :; }; compopt() { :; }; . " TEST_SOURCE
                  "/apps/coctilis/completion.bash; COMP_WORDS=(coctilis build p); COMP_CWORD=2; _coctilis; printf "
                  "'%s\\n' \"${COMPREPLY[@]}\""};
  command.folder = tree.path();
  const auto ended = coctilis::run(command);
  EXPECT_EQ(ended.output, "press\\ two\n");
}

// The other shells take what is offered by means of their own.
TEST_F(Completing, TheScriptsOfOtherShellsCallItToo) {
  if (find_program("fish").empty() || find_program("zsh").empty()) GTEST_SKIP() << "fish or zsh is not here";
  ASSERT_EQ(coctilis({"build", tree.path()}).exit, 0);
  Command command;
  command.folder = tree.path();
  command.argv = {"fish", "--no-config", "-c",
                  "function coctilis; $COCTILIS_PROGRAM $argv; end; source " TEST_SOURCE
                  "/apps/coctilis/completion.fish; complete -C 'coctilis build p'"};
  EXPECT_EQ(coctilis::run(command).output, "press two\n");
  command.argv = {"zsh", "-f", "-c",
                  "coctilis() { $COCTILIS_PROGRAM \"$@\" }\ncompadd() { print -rl -- \"${(@P)@[-1]}\" }\n_files() { "
                  "print none }\nwords=(coctilis build p); CURRENT=3\n. " TEST_SOURCE
                  "/apps/coctilis/completion.zsh\nwords=(coctilis build --set CL); CURRENT=4\n. " TEST_SOURCE
                  "/apps/coctilis/completion.zsh\nwords=(coctilis build x); CURRENT=3\n. " TEST_SOURCE
                  "/apps/coctilis/completion.zsh\n"};
  EXPECT_EQ(coctilis::run(command).output, "press two\nCLAY_WET=\nnone\n");
}

// ---- watching -------------------------------------------------------------------------------------------------------

TEST_F(UserFile, ItIsDoneAgainAtEveryChange) {
  Command command;
  command.argv = {"bash", "-c",
                  "cd " + tree.path() +
                      "; $COCTILIS_PROGRAM build --watch 2>../err >../out & pid=$!\n"
                      "till() { for i in $(seq 600); do [ \"$(grep -c 'waiting for a change' ../err)\" -ge $1 ] && "
                      "return; sleep 0.05; done; echo \"waited in vain for $1\"; }\n"
                      "till 1; mkdir more; echo '#error cold' > more/x.h; echo '#include \"more/x.h\"' >> $(ls *.c | "
                      "head -1); till 2\n"
                      "sed -i '$d' $(ls *.c | head -1); till 3; kill -TERM $pid; wait $pid; echo ended with $?"};
  command.limit_seconds = 120;
  const auto ended = coctilis::run(command);
  const std::string err = files::read(tree.scratch() + "/err").value_or("");
  EXPECT_NE(ended.output.find("ended with 0"), std::string::npos) << ended.output << err;
  EXPECT_NE(err.find("passed at"), std::string::npos) << err;
  EXPECT_NE(err.find("failed (exit code 5)"), std::string::npos) << err;
}

// ---- why ------------------------------------------------------------------------------------------------------------

TEST_F(DrivenTree, WhyKnowsHeadersDefinitionsCompilersLibrariesAndNumbers) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nfind_package(ZLIB REQUIRED)\n"
             "add_executable(kiln kiln.c)\ntarget_include_directories(kiln PRIVATE include)\n"
             "target_compile_definitions(kiln PRIVATE CONE=6)\ntarget_compile_options(kiln PRIVATE -Wall)\n"
             "target_link_libraries(kiln ZLIB::ZLIB)\n");
  tree.write("include/yard/clay.h", "#define CLAY CONE\n");
  tree.write(
      "kiln.c",
      "#include <zlib.h>\n#include \"yard/clay.h\"\nint main(void) { return zlibVersion()[0] == 0 ? CLAY : 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  struct {
    const char* subject;
    std::vector<const char*> says;
  } const tries[] = {
      {"clay.h", {"header include/yard/clay.h", "the include folder include of kiln brings it", "compile kiln.c"}},
      {"yard/clay.h", {"the include folder include of kiln brings it"}},
      {"zlib.h", {"header /usr/include/zlib.h", "the package zlib1g-dev"}},
      {"CONE", {"definition CONE", "CONE=6 in kiln"}},
      {"NDEBUG", {"-DNDEBUG in 2 commands", "it comes from the variant (release)"}},
      {"-Wall", {"compiler option -Wall", "the description gives it to kiln"}},
      {"gcc", {"compiler of C: ", "looks for headers in"}},
      {"libz.so", {"linked by kiln", "it is zlib, required by"}},
      {"0", {"step 0: compile kiln.c", "of kiln"}}};
  for (const auto& one : tries) {
    const auto said = coctilis({"why", one.subject, tree.path(), "--kiln", tree.kiln()});
    EXPECT_EQ(said.exit, 0) << one.subject << said.all();
    for (const char* text : one.says)
      EXPECT_NE(said.all().find(text), std::string::npos) << one.subject << ": " << text << "\n" << said.all();
  }
  const auto near = coctilis({"why", "CNE", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(near.exit, 2);
  EXPECT_NE(near.all().find("did you mean 'CONE'?"), std::string::npos) << near.all();
  EXPECT_EQ(coctilis({"why"}).exit, 2);
  EXPECT_EQ(coctilis({"why", "a", ".", "b"}).exit, 2);
}

// ---- dry runs -------------------------------------------------------------------------------------------------------

TEST_F(DrivenTree, ADryRunTellsWhatComesBehindTheBuild) {
  tree.write(
      "CMakeLists.txt",
      "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nenable_testing()\nadd_executable(kiln kiln.c)\n"
      "add_test(NAME warm COMMAND kiln)\ninstall(TARGETS kiln)\ninstall(DIRECTORY data DESTINATION share)\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  tree.write("data/cones.txt", "6\n");
  const std::string prefix = tree.scratch() + "/prefix";
  auto said = run("stage", {"--prefix", prefix, "--dry-run"});
  EXPECT_EQ(said.exit, 0) << said.all();
  for (const char* text :
       {"2 steps would run", "install bin/kiln", "install share/data/ (a folder)", "2 rules would install into"})
    EXPECT_NE(said.all().find(text), std::string::npos) << text << said.all();
  EXPECT_FALSE(files::exists(prefix));
  EXPECT_FALSE(is_built("kiln"));
  ASSERT_EQ(run("build").exit, 0);
  said = run("smoke", {"--dry-run"});
  EXPECT_EQ(said.exit, 0) << said.all();
  for (const char* text :
       {"no step would run", "check loads kiln loads", "check declared warm", "of what is built now would be made"})
    EXPECT_NE(said.all().find(text), std::string::npos) << text << said.all();
  EXPECT_EQ(run("smoke", {"--dry-run", "no-such"}).exit, 2);
  EXPECT_EQ(run("clean", {"--dry-run"}).exit, 0);
  EXPECT_TRUE(is_built("kiln"));
  EXPECT_EQ(run("clean", {"--dry-run", "--yes"}).exit, 2);
}

// ---- help -----------------------------------------------------------------------------------------------------------

TEST(Help, ErrorsNameThatOfTheCommand) {
  for (const char* command : {"build", "bringup", "stage", "figures"}) {
    const auto said = coctilis({command, "--no-such-option"});
    EXPECT_EQ(said.exit, 2) << command;
    EXPECT_NE(said.all().find("'coctilis " + std::string(command) + " --help'"), std::string::npos) << said.all();
  }
  const auto said = coctilis({"no-such-command"});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("'coctilis --help'"), std::string::npos) << said.all();
}

// ---- what headers cost ----------------------------------------------------------------------------------------------

class HeaderCostTest : public DrivenTree {
 protected:
  HeaderCostTest() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(brickyard CXX)\nadd_executable(kiln kiln.cpp)\n");
    tree.write("kiln.cpp", "#include \"clay.h\"\n#include <map>\nint main() { return clay() - 6; }\n");
    tree.write("clay.h", "inline int clay() { return 6; }\n");
  }
  // What the newest record says of the header whose path ends so.
  [[nodiscard]] nlohmann::json cost_of(const std::string& header) const {
    const auto record = tree.record();
    for (const auto& one : record["build"]["headers"]) {
      if (one["path"].get<std::string>().ends_with(header)) return one;
    }
    return {{"path", ""}, {"seconds", 0}, {"told", -1}};
  }
};

TEST_F(HeaderCostTest, IsSharedOutByBytes) {
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(cost_of("/map")["told"], 0);
  EXPECT_GT(cost_of("/map")["seconds"], 0);
  EXPECT_EQ(cost_of("clay.h")["path"], "clay.h");
  EXPECT_EQ(cost_of("kiln.cpp")["told"], -1);
}

TEST_F(HeaderCostTest, IsWhatTheCompilerSaysOfIt) {
  if (!files::is_program("/usr/bin/clang++")) GTEST_SKIP() << "there is no clang here";
  tree.write("coctilis.toml", "[tree]\nheader-times = true\n");
  ASSERT_EQ(run("build", {"--toolchain", "clang"}).exit, 0);
  EXPECT_EQ(cost_of("/map")["told"], 1);
  for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.label_folder()))
    EXPECT_FALSE(entry.path().filename() == "kiln.cpp.json" || entry.path().filename() == "kiln.json") << entry.path();
  // The reports have no say in what is up to date.
  const auto again = run("build", {"--toolchain", "clang"});
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

// ---- the compile database -------------------------------------------------------------------------------------------

TEST_F(DrivenTree, TheCompileDatabaseNamesTheTreesOwnFiles) {
  tree.write("Makefile",
             "all: kiln\nkiln: kiln.o\n\tcc -o $@ $^\nkiln.o: kiln.c made.h\n\tcc -Iinclude -I. -c -o $@ "
             "$<\nmade.h:\n\techo '#define MADE 1' > $@\n");
  tree.write("include/yard.h", "int yard;\n");
  tree.write("kiln.c", "#include \"yard.h\"\n#include \"made.h\"\nint main(void) { return MADE - 1; }\n");
  tree.write("coctilis.toml", "[tree]\ncompile-commands = true\n");
  ASSERT_EQ(coctilis({"build", tree.path()}).exit, 0);
  EXPECT_TRUE(files::is_link(tree.path("compile_commands.json")));
  const auto database = nlohmann::json::parse(tree.read("compile_commands.json"));
  ASSERT_EQ(database.size(), 1U);
  EXPECT_EQ(database[0]["file"], tree.path("kiln.c"));
  // It is a command that works, also for what is made.
  Command command;
  command.argv = database[0]["arguments"].get<std::vector<std::string>>();
  command.folder = database[0]["directory"];
  std::replace(command.argv.begin(), command.argv.end(), std::string("-c"), std::string("-fsyntax-only"));
  const auto ended = coctilis::run(command);
  EXPECT_TRUE(ended.good()) << ended.output;
  EXPECT_NE(std::find(command.argv.begin(), command.argv.end(), "-I" + tree.path("include")), command.argv.end());
  // A second run finds its own link; a file of somebody else's stays.
  ASSERT_EQ(coctilis({"build", tree.path()}).exit, 0);
  std::filesystem::remove(tree.path("compile_commands.json"));
  tree.write("compile_commands.json", "mine");
  const auto said = coctilis({"build", tree.path(), "--rerun"});
  EXPECT_EQ(said.exit, 0);
  EXPECT_NE(said.all().find("stays as it is"), std::string::npos) << said.all();
  EXPECT_EQ(tree.read("compile_commands.json"), "mine");
  // So does somebody's link to a database of another program.
  std::filesystem::remove(tree.path("compile_commands.json"));
  tree.write("out/compile_commands.json", "theirs");
  std::filesystem::create_symlink("out/compile_commands.json", tree.path("compile_commands.json"));
  ASSERT_EQ(coctilis({"build", tree.path(), "--rerun"}).exit, 0);
  EXPECT_EQ(tree.read("compile_commands.json"), "theirs");
}

// A kiln may have come with the tree, and its links with it.
TEST_F(DrivenTree, FiguresAreWrittenThroughNoLink) {
  write_small_tree(tree);
  ASSERT_EQ(run("build").exit, 0);
  const std::string home = tree.scratch() + "/home";
  files::make_folder(home);
  files::write(home + "/timeline.csv", "precious");
  std::filesystem::create_symlink(home, tree.label_folder() + "/runs/1/figures");
  const auto said = run("figures");
  EXPECT_EQ(said.exit, 7) << said.all();
  EXPECT_EQ(files::read(home + "/timeline.csv").value_or(""), "precious");
  EXPECT_EQ(files::names_in(home).size(), 1U);
}

TEST_F(DrivenTree, FiguresOfARunThatRepeatsAnotherAreThatOnes) {
  write_small_tree(tree);
  for (int i = 0; i < 3; ++i) ASSERT_EQ(run("build").exit, 0);
  const auto said = run("figures", {"--run", "3"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("of run "), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("nothing to draw"), std::string::npos) << said.all();
}

TEST_F(DrivenTree, OnlyFoldersAreWatched) {
  files::write(tree.scratch() + "/yard.tar", "");
  const auto said = coctilis({"build", "--watch", tree.scratch() + "/yard.tar"});
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("no folder that could be watched"), std::string::npos) << said.all();
}

// ---- events
// ----------------------------------------------------------------------------------------------------------

class EventsTree : public DrivenTree {
 protected:
  EventsTree() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_library(clay clay.c)\n"
               "add_executable(kiln kiln.c)\ntarget_link_libraries(kiln clay)\n");
    tree.write("clay.c", "int clay(void) { return 0; }\n");
    tree.write("kiln.c", "int clay(void);\nint main(void) { return clay(); }\n");
  }
  // Each line of what was printed.
  static std::vector<nlohmann::json> events(const Said& said) {
    std::vector<nlohmann::json> out;
    for (const auto& line : text::split(said.out, '\n')) {
      if (!line.empty()) out.push_back(nlohmann::json::parse(line, nullptr, false));
    }
    return out;
  }
};

TEST_F(EventsTree, AreALineEachAsTheyHappen) {
  const auto said = run("bringup", {"--json-lines"});
  ASSERT_EQ(said.exit, 0) << said.all();
  const auto all = events(said);
  ASSERT_GT(all.size(), 10U) << said.all();
  EXPECT_EQ(all.front()["event"], "begun");
  EXPECT_EQ(all.front()["schema"], 1);
  EXPECT_EQ(all.back()["event"], "ended");
  EXPECT_EQ(all.back()["exit"], 0);
  EXPECT_TRUE(files::is_file(all.back()["record"].get<std::string>()));
  std::map<std::string, int> begun;
  std::map<std::string, int> ended;
  std::vector<std::string> stages;
  double at = 0;
  std::size_t checks = 0;
  for (const auto& one : all) {
    ASSERT_TRUE(one.is_object()) << said.all();
    EXPECT_GE(one["at"].get<double>(), at);
    at = one["at"].get<double>();
    const std::string event = one["event"];
    if (event == "stage") stages.push_back(one["stage"]);
    if (event == "step begun") ++begun[one["subject"]];
    if (event == "step ended") {
      EXPECT_EQ(one["state"], "done");
      EXPECT_EQ(begun[one["subject"]], ++ended[one["subject"]]) << "none ends before it begins";
    }
    checks += event == "check ended" ? 1 : 0;
  }
  EXPECT_EQ(begun.size(), 4U);
  EXPECT_EQ(begun, ended);
  EXPECT_EQ(text::join(stages, " "), "survey locate plan build smoke");
  EXPECT_GT(checks, 0U);
}

TEST_F(EventsTree, AFailureSaysWhere) {
  tree.write("clay.c", "int clay(void) { return brick; }\n");
  const auto said = run("build", {"--json-lines"});
  EXPECT_EQ(said.exit, 5);
  const auto all = events(said);
  ASSERT_FALSE(all.empty());
  EXPECT_EQ(all.back()["exit"], 5);
  EXPECT_EQ(all.back()["problem"]["place"]["file"], "CMakeLists.txt");
  bool told = false;
  for (const auto& one : all) {
    if (one["event"] != "step ended" || one["state"] != "failed") continue;
    told = one["output"].get<std::string>().find("brick") != std::string::npos;
  }
  EXPECT_TRUE(told) << said.all();
  EXPECT_EQ(run("build", {"--json-lines", "--json"}).exit, 2);
}

TEST_F(EventsTree, OfADryRunSayHowMuchWouldRun) {
  const auto said = run("build", {"--json-lines", "--dry-run"});
  ASSERT_EQ(said.exit, 0) << said.all();
  std::string text;
  for (const auto& one : events(said)) {
    if (one["event"] == "stage" && one["stage"] == "dry run") text = one["text"].get<std::string>();
  }
  EXPECT_NE(text.find("would run"), std::string::npos) << said.all();
}

TEST_F(EventsTree, OfMembersSayWhose) {
  tree.write("CMakeLists.txt", "");
  std::filesystem::remove(tree.path() + "/CMakeLists.txt");
  for (const char* name : {"north", "south"}) {
    tree.write(std::string(name) + "/CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(x C)\nadd_executable(" + std::string(name) + " k.c)\n");
    tree.write(std::string(name) + "/k.c", "int main(void) { return 0; }\n");
  }
  const auto said = run("build", {"--json-lines"});
  ASSERT_EQ(said.exit, 0) << said.all();
  std::set<std::string> members;
  for (const auto& one : events(said)) {
    if (one["event"] == "member ended") members.insert(one["member"].get<std::string>());
  }
  EXPECT_EQ(members, (std::set<std::string>{"north", "south"}));
}

// ---- trees side by side
// ----------------------------------------------------------------------------------------------

TEST_F(EventsTree, CanBeSetBesideOthers) {
  const std::string other = tree.scratch() + "/press";
  files::make_folder(other + "/src");
  files::write(other + "/src/press.c", "int main(void) {\n  return 0;\n}\n");
  const auto said = run("survey", {"--compare", other});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.out.find("press"), std::string::npos) << said.all();
  EXPECT_NE(said.out.find("code in all"), std::string::npos) << said.all();
  const auto documents = run("survey", {"--compare", other, "--json"}).json();
  ASSERT_EQ(documents.size(), 2U);
  EXPECT_EQ(documents[1]["survey"]["lines_by_folder"][0]["folder"], "src");
  EXPECT_EQ(run("survey", {"--compare", tree.scratch() + "/nowhere"}).exit, 2);
  EXPECT_EQ(run("survey", {"--compare", other, "--fill"}).exit, 2);
}

// ---- the manual -----------------------------------------------------------------------------------------------------

TEST_F(DrivenTree, EveryCommandHasAPageThatSaysWhatItsHelpSays) {
  ASSERT_EQ(coctilis({"write-manual", tree.scratch() + "/manual", TEST_SOURCE "/docs/coctilis-toml.md"}).exit, 0);
  const std::string help = coctilis({"--help"}).out;
  std::size_t pages = 0;
  for (const auto& entry : std::filesystem::directory_iterator(tree.scratch() + "/manual")) {
    const std::string file = entry.path().filename().string();
    if (!file.ends_with(".1")) continue;
    ++pages;
    const std::string name = file.substr(9, file.size() - 11);
    EXPECT_NE(help.find("\n  " + name), std::string::npos) << name;
  }
  EXPECT_EQ(pages, 14U);
  const std::string page = files::read(tree.scratch() + "/manual/coctilis-build.1").value_or("");
  EXPECT_NE(page.find("\\-\\-past\\-failures\nAfter a failed step go on with what does not need it\n"),
            std::string::npos)
      << page;
  EXPECT_NE(files::read(tree.scratch() + "/manual/coctilis.toml.5").value_or("").find("\\fBleave\\-out\\fR"),
            std::string::npos);
}

}  // namespace
}  // namespace coctilis::test
