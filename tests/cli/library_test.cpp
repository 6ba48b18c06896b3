// Libraries that a tree installs, used by a small client as their users will.
#include "support.h"

namespace coctilis::test {
namespace {

class Library : public DrivenTree {
 protected:
  Library() {
    list("add_library(clay SHARED clay.c)\n");
    tree.write("clay.c", "#include \"include/clay.h\"\nint clay_water(void) { return 18; }\n");
    tree.write("include/clay.h", "#ifndef CLAY_H\n#define CLAY_H\nint clay_water(void);\n#endif\n");
  }
  void list(const std::string& target, const std::string& more = {}) const {
    tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\n" + target +
                                     "install(TARGETS clay)\ninstall(DIRECTORY include/ DESTINATION include)\n" + more);
  }
  // With a .pc file that has these fields besides.
  void with_pc(const std::string& fields) const {
    tree.write("clay.pc",
               "prefix=/opt/brickyard\nincludedir=${prefix}/include\nlibdir=${prefix}/lib\nName: clay\n"
               "Description: clays\nVersion: 1\nCflags: -I${includedir}\nLibs: -L${libdir} -lclay\n" +
                   fields);
    list("add_library(clay SHARED clay.c)\n", "install(FILES clay.pc DESTINATION lib/pkgconfig)\n");
  }
  [[nodiscard]] nlohmann::json check(const std::string& name = "clay is used") const {
    const auto record = tree.record();
    for (const auto& one : record["checks"]) {
      if (one["name"] == name) return one;
    }
    return {{"verdict", "none"}, {"reason", "no such check"}, {"cause", ""}, {"remedy", ""}};
  }
};

TEST_F(Library, AClientIncludesLinksAndStarts) {
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check()["reason"], "a client that includes 1 header links with 1 symbol and starts");
  // With nothing to do, and with something else to do, the answer is kept: it hangs on headers, and on nothing that is
  // another at every start.
  const std::string kept = files::read(tree.label_folder() + "/checked/answers").value_or("");
  EXPECT_NE(kept.find("/include/clay.h"), std::string::npos);
  for (const char* folder : {"\n/proc/", "\n/dev/"})
    EXPECT_EQ(kept.find(folder), std::string::npos) << kept.substr(kept.find(folder), 200);
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(check()["reason"], "a client that includes 1 header links with 1 symbol and starts");
}

TEST_F(Library, ItIsListedAndMadeAgainWhenItFailed) {
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  ASSERT_EQ(run("bringup").exit, 6);
  EXPECT_NE(run("smoke", {"--list"}).all().find("clay is used a client of lib/libclay.so"), std::string::npos)
      << run("smoke", {"--list"}).all();
  const auto said = run("smoke", {"--failed"});
  EXPECT_EQ(said.exit, 6);
  EXPECT_NE(said.all().find("failed clay is used"), std::string::npos) << said.all();
}

TEST_F(Library, WhatWasBuiltMeanwhileIsInstalled) {
  ASSERT_EQ(run("bringup").exit, 0);
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  // Twice: the second has nothing to do, as has the build of what follows.
  ASSERT_EQ(run("build").exit, 0);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(run("bringup").exit, 6);
}

TEST_F(Library, AnInstalledHeaderThatNothingCompilesIsTried) {
  ASSERT_EQ(run("bringup").exit, 0);
  ASSERT_EQ(run("bringup").exit, 0);
  tree.write("include/kiln.h", "int kiln_heat(kiln_number cone);\n");
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_NE(check().dump().find("kiln.h cannot be included by itself"), std::string::npos) << check().dump();
  tree.write("include/kiln.h", "int kiln_heat(int cone);\n");
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(check().dump().find("cannot be included"), std::string::npos) << check().dump();
  EXPECT_EQ(check()["reason"], "a client that includes 2 headers links with 1 symbol and starts");
  // Gone again.
  std::filesystem::remove(tree.path("include/kiln.h"));
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(check()["reason"], "a client that includes 1 header links with 1 symbol and starts");
}

TEST_F(Library, ThePrefixOfClientsMayBeTakenAway) {
  for (int i = 0; i < 3; ++i) ASSERT_EQ(run("bringup").exit, 0);
  std::filesystem::remove_all(tree.label_folder() + "/checked/staged");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check()["reason"], "a client that includes 1 header links with 1 symbol and starts");
}

TEST_F(Library, AHeaderThatDoesNotStandAlone) {
  tree.write("include/clay.h", "int clay_water(kiln_number shift);\n");
  EXPECT_EQ(run("bringup").exit, 5) << "its own source does not compile either";
  tree.write("clay.c", "typedef int kiln_number;\n#include \"include/clay.h\"\nint clay_water(int s) { return s; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("its header clay.h cannot be included by itself"),
            std::string::npos)
      << check();
  EXPECT_NE(said.all().find("kiln_number"), std::string::npos) << said.all();
  tree.write("include/clay.h", "typedef int kiln_number;\nint clay_water(kiln_number shift);\n");
  tree.write("clay.c", "#include \"include/clay.h\"\nint clay_water(int s) { return s; }\n");
  EXPECT_EQ(run("bringup").exit, 0);
}

TEST_F(Library, AHeaderMayCountOnThoseOfTheLanguage) {
  tree.write("include/clay.h", "int clay_water(FILE* from);\n");
  tree.write("clay.c", "#include <stdio.h>\n#include \"include/clay.h\"\nint clay_water(FILE* f) { return f != 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("behind the usual headers of C"), std::string::npos) << check();
  EXPECT_NE(said.all().find("clay.h cannot be included by itself"), std::string::npos) << said.all();
}

TEST_F(Library, OneOfSeveralHeadersIsARemark) {
  tree.write("include/clay/inner.h", "clay_inner x;\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("1 of 2 headers"), std::string::npos) << check();
  EXPECT_NE(said.all().find("clay/inner.h cannot be included by itself"), std::string::npos) << said.all();
}

TEST_F(Library, ASymbolThatNobodyDefines) {
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("kiln_heat is nowhere defined"), std::string::npos) << check();
  EXPECT_EQ(check()["cause"], "the library uses what it is not linked with");
}

// What its users have to define is no fault of the library: a program that is installed with it does so.
TEST_F(Library, ASymbolThatItsUsersDefine) {
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  tree.write(
      "fire.c",
      "#include \"include/clay.h\"\nint kiln_heat(void) { return 0; }\nint main(void) { return clay_water(); }\n");
  list("add_library(clay SHARED clay.c)\nadd_executable(fire fire.c)\ntarget_link_libraries(fire clay)\n",
       "install(TARGETS fire)\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check()["verdict"], "skipped");
  EXPECT_EQ(check()["reason"], "who uses it has to define kiln_heat, as fire does");
}

TEST_F(Library, CodeInAHeaderThatWantsAnotherLibraryIsARemark) {
  tree.write(
      "include/kiln_adapter.h",
      "#include \"clay.h\"\nint kiln_fire(int water);\nstatic int adapt(void) { return kiln_fire(clay_water()); }\n"
      "int (*adapter)(void) = adapt;\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("code in its headers uses what it is not linked with: kiln_fire"), std::string::npos)
      << said.all();
}

TEST_F(Library, APcFileIsFollowed) {
  with_pc("");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("by clay.pc and starts"), std::string::npos) << check();
}

TEST_F(Library, APcFileThatRequiresWhatIsNotThere) {
  with_pc("Requires: glaze-of-no-yard >= 2\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("clay is used passed, but: not by clay.pc: "), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("glaze-of-no-yard"), std::string::npos) << said.all();
}

TEST_F(Library, APcFileThatKeepsQuietOfWhatHeadersInclude) {
  // zlib.h stands for what lies where only the .pc file of another library says.
  tree.write("own/glaze.h", "#define GLAZE 1\n");
  tree.write("include/clay.h", "#include <glaze.h>\nint clay_water(void);\n");
  tree.write("clay.c", "#include \"include/clay.h\"\nint clay_water(void) { return GLAZE; }\n");
  with_pc("");
  list("add_library(clay SHARED clay.c)\ntarget_include_directories(clay PRIVATE own)\n",
       "install(FILES clay.pc DESTINATION lib/pkgconfig)\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(check()["evidence"].dump().find("glaze.h"), std::string::npos) << check();
}

TEST_F(Library, AnArchiveThatWantsMoreThanItsPcFileSays) {
  with_pc("");
  list("add_library(clay STATIC clay.c)\n", "install(FILES clay.pc DESTINATION lib/pkgconfig)\n");
  tree.write("clay.c",
             "#include <math.h>\n#include \"include/clay.h\"\nvolatile double w = 1;\n"
             "int clay_water(void) { return (int)cos(w); }\n");
  auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check("clay (archive) is used")["verdict"], "skipped");
  EXPECT_EQ(check("clay (archive) is used")["reason"], "what else users have to link is not said: it wants cos");
  with_pc("Libs.private: -lm\n");
  list("add_library(clay STATIC clay.c)\n", "install(FILES clay.pc DESTINATION lib/pkgconfig)\n");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Library, OneThatCannotBeLoadedAlone) {
  tree.write("clay.c",
             "#include <stdlib.h>\n#include \"include/clay.h\"\nint clay_water(void) { return 18; }\n"
             "__attribute__((constructor)) static void begin(void) { abort(); }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("does not start"), std::string::npos) << check();
}

TEST_F(Library, OneThatIsNotInstalledIsNotTried) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nadd_library(clay SHARED clay.c)\n");
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(check()["verdict"], "none");
}

TEST_F(Library, OneThatAMakefileInstalls) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile",
             "prefix = /usr/local\nall: libclay.so\nlibclay.so: clay.c\n\t$(CC) -shared -fPIC -o $@ clay.c\n"
             "install: all\n\tmkdir -p $(DESTDIR)$(prefix)/lib $(DESTDIR)$(prefix)/include\n"
             "\tcp libclay.so $(DESTDIR)$(prefix)/lib\n\tcp include/clay.h $(DESTDIR)$(prefix)/include\n");
  auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto one = check("libclay.so is used");
  EXPECT_EQ(one["reason"], "a client that includes 1 header links with 1 symbol and starts") << said.all();
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
}

TEST_F(Library, WhatAMakefileInstallsToBeLoadedHasNoClient) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  const auto write = [&](const std::string& options) {
    tree.write("Makefile",
               "prefix = /usr/local\nall: clay.so\nclay.so: clay.c\n\t$(CC) -shared -fPIC " + options +
                   " -o $@ clay.c\n"
                   "install: all\n\tmkdir -p $(DESTDIR)$(prefix)/lib $(DESTDIR)$(prefix)/include\n"
                   "\tcp clay.so $(DESTDIR)$(prefix)/lib\n\tcp include/clay.h $(DESTDIR)$(prefix)/include\n");
  };
  // The program that loads it has what it leaves undefined.
  tree.write("clay.c",
             "#include \"include/clay.h\"\nint kiln_heat(void);\nint clay_water(void) { return kiln_heat(); }\n");
  write("");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check("clay.so is used")["verdict"], "none");
  write("-Wl,-soname,clay.so");
  EXPECT_EQ(run("bringup").exit, 6);
}

TEST_F(Library, OneFileUnderTwoNamesIsTriedOnce) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile",
             "prefix = /usr/local\nall: libclay.so\nlibclay.so: clay.c\n\t$(CC) -shared -Wl,-soname,libclay.so.2 -fPIC "
             "-o $@ clay.c\n"
             "install: all\n\tmkdir -p $(DESTDIR)$(prefix)/lib $(DESTDIR)$(prefix)/include\n"
             "\tcp libclay.so $(DESTDIR)$(prefix)/lib/libclay.so.2\n"
             "\tcd $(DESTDIR)$(prefix)/lib && ln -sf libclay.so.2 libclay.so\n"
             "\tcp include/clay.h $(DESTDIR)$(prefix)/include\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto one = check("libclay.so is used")["verdict"];
  const auto other = check("libclay.so.2 is used")["verdict"];
  EXPECT_TRUE((one == "passed") != (other == "passed")) << one << other << said.all();
}

TEST_F(Library, AHeaderOfCPlusPlusThatEndsLikeOneOfC) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nadd_library(clay SHARED clay.c)\n"
             "install(TARGETS clay)\ninstall(FILES include/clay.h DESTINATION include)\n");
  tree.write("include/clay.h", "#include <string>\nnamespace clay { inline std::string name() { return \"red\"; } }\n");
  tree.write("clay.c", "int clay_water(void) { return 18; }\n");
  EXPECT_EQ(run("bringup").exit, 0);
}

TEST_F(Library, HeadersOfCPlusPlus) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard CXX)\nset(CMAKE_CXX_STANDARD 20)\n"
             "add_library(clay SHARED clay.cpp)\ninstall(TARGETS clay)\ninstall(FILES include/clay.hpp DESTINATION "
             "include)\n");
  tree.write("include/clay.hpp",
             "#pragma once\n#include <span>\nnamespace clay { int water(std::span<const int> s); }\n");
  tree.write("clay.cpp", "#include \"include/clay.hpp\"\nint clay::water(std::span<const int> s) { return s[0]; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(check()["reason"].get<std::string>().find("links with 1 symbol and starts"), std::string::npos) << check();
}

// ---- the order of tests ---------------------------------------------------------------------------------------------

class Ordered : public DrivenTree {
 protected:
  void tests(const std::string& declared) const {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nenable_testing()\n" + declared);
  }
  [[nodiscard]] nlohmann::json check(const std::string& name) const {
    const auto record = tree.record();
    for (const auto& one : record["checks"]) {
      if (one["name"] == name) return one;
    }
    return {{"verdict", "none"}, {"cause", ""}};
  }
  static constexpr const char* in_tree = " WORKING_DIRECTORY ${CMAKE_SOURCE_DIR})\n";
};

TEST_F(Ordered, WhatAnotherTestLeavesIsACause) {
  tree.write("kiln.log", "");
  tests(std::string("add_test(NAME fires COMMAND sh -c \"echo hot >>kiln.log\"") + in_tree +
        "add_test(NAME cold COMMAND sh -c \"test ! -s kiln.log\"" + in_tree);
  // Side by side, the second may well look before the first has written.
  const auto said = run("bringup", {"--jobs", "1"});
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_EQ(check("cold")["cause"], "alone it passes: what a test before it leaves behind disturbs it");
  EXPECT_EQ(run("smoke", {"cold"}).exit, 0);
}

TEST_F(Ordered, WhatItNeedsOfAnotherIsACause) {
  tree.write("kiln.log", "");
  tests(std::string("add_test(NAME fires COMMAND sh -c \"echo hot >>kiln.log\"") + in_tree +
        "add_test(NAME warm COMMAND sh -c \"test -s kiln.log\"" + in_tree);
  EXPECT_EQ(run("bringup", {"--jobs", "1"}).exit, 0);
  EXPECT_EQ(run("smoke", {"warm"}).exit, 6);
  EXPECT_EQ(check("warm")["cause"], "it needs what a test before it leaves: behind all of them it passes");
}

TEST_F(Ordered, OneThatFailsAnyWayHasNoSuchCause) {
  tests(std::string("add_test(NAME fires COMMAND true") + in_tree + "add_test(NAME never COMMAND false" + in_tree);
  EXPECT_EQ(run("bringup").exit, 6);
  EXPECT_EQ(check("never").dump().find("test before it"), std::string::npos);
  EXPECT_EQ(run("smoke", {"never"}).exit, 6);
  EXPECT_EQ(check("never").dump().find("test before it"), std::string::npos);
}

// ---- a shell in place of a check ------------------------------------------------------------------------------------

class Shell : public DrivenTree {
 protected:
  Shell() {
    write_small_tree(tree);
    tree.write("data/cones.txt", "cone 6\n");
    tree.write("coctilis.toml",
               "[[smoke]]\nname = \"cones\"\nrun = [\"sh\", \"-c\", \"cat cones.txt\"]\nfiles = \"data/cones.txt\"\n"
               "environment = { CLAY = \"red\" }\n[[smoke]]\nname = \"many\"\nrun = [\"sh\", \"-c\", \"true\"]\n");
  }
  // What a shell says that is given those lines.
  Said typed(const std::vector<std::string>& checks, const std::string& lines) const {
    files::write(tree.scratch() + "/lines", lines);
    std::vector<std::string> words = {"-c", "exec \"$@\" <\"$0\"", tree.scratch() + "/lines",
                                      std::getenv("COCTILIS_PROGRAM"), "smoke"};
    words.push_back(tree.path());
    words.insert(words.end(), checks.begin(), checks.end());
    words.insert(words.end(), {"--kiln", tree.kiln(), "--shell"});
    words.insert(words.begin(), "/bin/sh");
    Command command;
    command.argv = words;
    command.merge_errors = false;
    command.environment = {{"SHELL", "/bin/sh"}};
    const Ended ended = coctilis::run(command);
    return {ended.code, ended.output, ended.errors};
  }
};

TEST_F(Shell, ItHasTheFolderTheFilesAndTheEnvironmentOfTheCheck) {
  const auto said = typed({"cones"}, "cat cones.txt\necho \"clay is $CLAY\"\necho x >new && echo written\n");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.out.find("cone 6\nclay is red\nwritten\n"), std::string::npos) << said.all();
  EXPECT_NE(said.err.find("cat cones.txt"), std::string::npos) << said.all();
}

TEST_F(Shell, ItMayNotWriteWhereTheCheckMayNot) {
  const auto said = typed({"cones"}, "echo x >" + tree.path("mark") + " || echo refused\n");
  EXPECT_NE(said.out.find("refused"), std::string::npos) << said.all();
  EXPECT_FALSE(files::exists(tree.path("mark")));
}

TEST_F(Shell, OneCheckIsNamed) {
  EXPECT_EQ(typed({}, "").exit, 2);
  tree.write("coctilis.toml", tree.read("coctilis.toml") +
                                  "[[smoke]]\nname = \"one\"\nrun = [\"press\"]\n"
                                  "[[smoke]]\nname = \"other\"\nrun = [\"press\", \"x\"]\n");
  const auto said = typed({"press"}, "");
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("several checks are meant: 'one', 'other'"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
