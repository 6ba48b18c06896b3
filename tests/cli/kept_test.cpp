// A description is read again only when something that it looked at is another, and then always.
#include <sys/stat.h>
#include <unistd.h>

#include "support.h"

namespace coctilis::test {
namespace {

class KeptPlan : public testing::Test {
 protected:
  nlohmann::json build(std::vector<std::string> more = {},
                       const std::map<std::string, std::optional<std::string>>& environment = {}) {
    std::vector<std::string> arguments = {"build", tree.path(), "--kiln", tree.kiln(), "--json"};
    arguments.insert(arguments.end(), more.begin(), more.end());
    const auto said = coctilis(arguments, environment);
    EXPECT_EQ(said.exit, 0) << said.out << said.err;
    return said.exit == 0 ? said.json() : nlohmann::json{{"plan", {{"kept", false}}}};
  }
  // Runs until the plan is taken: what a first run writes may be what it asked for.
  void settle() {
    for (int i = 0; i < 3; ++i) {
      const auto run = build();
      if (run["plan"]["kept"] == true) return;
      why_ = run["plan"]["worked_out_because"].get<std::string>();
    }
    FAIL() << "never kept: " << why_;
  }
  bool kept() {
    const auto run = build();
    why_ = run["plan"]["worked_out_because"].get<std::string>();
    return run["plan"]["kept"] == true;
  }
  // After `change` the plan is worked out again, because of something with `what` in it.
  template <class F>
  void expect_again(const std::string& what, F&& change) {
    settle();
    change();
    EXPECT_FALSE(kept()) << what;
    EXPECT_NE(why_.find(what), std::string::npos) << why_;
  }
  [[nodiscard]] std::string said_by(const std::string& program) const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/" + program};
    return coctilis::run(command).output;
  }

  TreeFolder tree;
  std::string why_;
};

class KeptListfile : public KeptPlan {
 protected:
  void SetUp() override {
    tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.20)
project(yard C)
option(GLAZED "with glaze" OFF)
file(GLOB sources CONFIGURE_DEPENDS src/*.c)
file(STRINGS version.txt version)
configure_file(config.h.in config.h)
if(EXISTS ${CMAKE_SOURCE_DIR}/glaze.txt)
  set(glaze 1)
endif()
execute_process(COMMAND cat ${CMAKE_SOURCE_DIR}/revision WORKING_DIRECTORY ${CMAKE_SOURCE_DIR} OUTPUT_VARIABLE revision
                OUTPUT_STRIP_TRAILING_WHITESPACE)
include(part.cmake)
add_executable(kiln ${sources})
target_include_directories(kiln PRIVATE ${CMAKE_BINARY_DIR})
target_compile_definitions(kiln PRIVATE REVISION="${revision}" VERSION="${version}" GLAZE=${glaze}+0
                           CLAY="$ENV{CLAY}")
)");
    tree.write("part.cmake", "include(CheckIncludeFile)\ncheck_include_file(stdio.h HAVE_STDIO)\n");
    tree.write("version.txt", "1.0\n");
    tree.write("revision", "first\n");
    tree.write("config.h.in", "#define SHIFTS 3\n");
    tree.write("src/main.c",
               "#include <stdio.h>\n#include \"config.h\"\n"
               "int main(void) { printf(\"%s %s %d %d %s\\n\", REVISION, VERSION, GLAZE, SHIFTS, CLAY); return 0; }\n");
  }
};

TEST_F(KeptListfile, TheFirstRunKeepsItsPlan) {
  EXPECT_FALSE(kept());
  EXPECT_TRUE(kept()) << why_;
  build({"--rerun"});
  EXPECT_TRUE(kept()) << why_;
}

TEST_F(KeptListfile, SourcesHaveNoSay) {
  settle();
  EXPECT_EQ(said_by("kiln"), "first 1.0 0 3 \n");
  tree.write("src/main.c", "int main(void) { return 0; }\n");
  const auto run = build();
  EXPECT_TRUE(run["plan"]["kept"]);
  EXPECT_EQ(run["build"]["ran"], 2);
  EXPECT_EQ(said_by("kiln"), "");
}

TEST_F(KeptListfile, EverythingThatWasAskedForHasASay) {
  expect_again("what lies in", [&] { tree.write("src/more.c", "int more;\n"); });
  expect_again("version.txt is another", [&] { tree.write("version.txt", "1.10\n"); });
  expect_again("glaze.txt is there now", [&] { tree.write("glaze.txt", ""); });
  expect_again("says something else", [&] { tree.write("revision", "second\n"); });
  expect_again("part.cmake is another", [&] { tree.write("part.cmake", "# nothing\n"); });
  expect_again("config.h.in is another", [&] { tree.write("config.h.in", "#define SHIFTS 14\n"); });
  EXPECT_EQ(said_by("kiln"), "second 1.10 1 14 \n");
  expect_again("config.h is gone", [&] {
    for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.label_folder())) {
      if (entry.path().filename() == "config.h") std::filesystem::remove(entry.path());
    }
  });
  expect_again("glaze.txt is gone", [&] { std::filesystem::remove(tree.path("glaze.txt")); });
  EXPECT_EQ(said_by("kiln"), "second 1.10 0 14 \n");
}

TEST_F(KeptListfile, OptionsSettingsAndTheEnvironmentHaveASay) {
  settle();
  auto run = build({"--set", "GLAZED=ON"});
  EXPECT_FALSE(run["plan"]["kept"]);
  run = build({"--set", "GLAZED=ON"});
  EXPECT_TRUE(run["plan"]["kept"]);
  run = build({"--set", "GLAZED=ON", "--jobs", "1"});
  EXPECT_TRUE(run["plan"]["kept"]);
  run = build({"--unset", "GLAZED"});
  EXPECT_FALSE(run["plan"]["kept"]);
  settle();
  run = build({}, {{"CLAY", "loam"}});
  EXPECT_FALSE(run["plan"]["kept"]);
  EXPECT_NE(said_by("kiln").find("loam"), std::string::npos);
  settle();
  tree.write("coctilis.toml", "[options]\nGLAZED = \"ON\"\n");
  EXPECT_FALSE(kept());
  settle();
  run = build({"--rerun"});
  EXPECT_FALSE(run["plan"]["kept"]);
  EXPECT_EQ(run["plan"]["worked_out_because"], "--rerun was given");
}

TEST_F(KeptListfile, WhatIsAnotherEachTimeIsNotKept) {
  tree.write("part.cmake", "string(RANDOM LENGTH 12 mark)\n");
  for (int i = 0; i < 3; ++i) EXPECT_FALSE(kept());
  tree.write("part.cmake", "string(TIMESTAMP year \"%Y\")\n");
  settle();
}

TEST_F(KeptListfile, ADamagedFileIsNoFailure) {
  settle();
  files::write(tree.label_folder() + "/kept", "this is nothing that anybody kept");
  EXPECT_FALSE(kept());
  EXPECT_TRUE(kept());
}

TEST_F(KeptListfile, ATakenPlanSaysWhatTheFirstSaid) {
  settle();
  const std::vector<std::string> arguments = {"plan", tree.path(), "--kiln", tree.kiln(), "--json"};
  std::filesystem::remove(tree.label_folder() + "/kept");
  const auto anew = coctilis(arguments);
  const auto taken = coctilis(arguments);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/kept"));
  EXPECT_EQ(anew.out, taken.out);
  std::vector<std::string> why = {"why", "HAVE_STDIO", tree.path(), "--kiln", tree.kiln()};
  const auto said = coctilis(why);
  EXPECT_NE(said.out.find("stdio.h"), std::string::npos) << said.all();
}

TEST_F(KeptListfile, AMissingLibraryThatComesIsNoticed) {
  tree.write("part.cmake",
             "find_library(GLAZE_LIBRARY glaze PATHS ${CMAKE_SOURCE_DIR}/lib)\n"
             "find_path(GLAZE_INCLUDE glaze.h PATHS ${CMAKE_SOURCE_DIR}/lib)\n");
  settle();
  tree.write("lib/glaze.h", "");
  EXPECT_FALSE(kept());
  settle();
  tree.write("lib/libglaze.a", "!<arch>\n");
  EXPECT_FALSE(kept());
}

class KeptMakefile : public KeptPlan {
 protected:
  void SetUp() override {
    tree.write("Makefile",
               "-include local.mk\nSIZE := $(shell cat size)\nCPPFLAGS = -DSIZE=$(SIZE) -DWORD='\"$(WORD)\"'\n"
               "kiln: $(patsubst %.c,%.o,$(wildcard *.c))\n\t$(CC) -o $@ $^\n");
    tree.write("size", "3\n");
    tree.write("main.c", "#include <stdio.h>\nint main(void) { printf(\"%d %s\\n\", SIZE, WORD); return 0; }\n");
  }
};

TEST_F(KeptMakefile, EverythingThatWasAskedForHasASay) {
  settle();
  EXPECT_EQ(said_by("kiln"), "3 \n");
  tree.write("main.c", tree.read("main.c") + "/* more */\n");
  EXPECT_TRUE(kept()) << why_;
  expect_again("says something else", [&] { tree.write("size", "14\n"); });
  expect_again("is another", [&] { tree.write("local.mk", "WORD = brick\n"); });
  EXPECT_EQ(said_by("kiln"), "14 brick\n");
  expect_again("local.mk is another", [&] { tree.write("local.mk", "WORD = tile\n"); });
  expect_again("is another", [&] { tree.write("more.c", "int more;\n"); });
  EXPECT_EQ(said_by("kiln"), "14 tile\n");
  expect_again("is another", [&] { tree.write("Makefile", tree.read("Makefile") + "# the end\n"); });
}

TEST_F(KeptMakefile, LinesThatWaitAreWorkedOutByTheMakefile) {
  tree.write("Makefile", tree.read("Makefile") +
                             "stock: main.c\n\t@echo $(shell wc -c <main.c) >$@\nall: kiln stock\n"
                             ".DEFAULT_GOAL := all\n");
  settle();
  tree.write("main.c", tree.read("main.c") + "/* more */\n");
  EXPECT_FALSE(kept());
  EXPECT_NE(why_.find("hangs on what is there then"), std::string::npos) << why_;
  settle();
}

TEST_F(KeptMakefile, InnerMakesKeepTheirOwn) {
  tree.write("Makefile", "all:\n\t$(MAKE) -C inner\n");
  tree.write("inner/Makefile", "kiln: main.o\n\t$(CC) -o $@ $^\n");
  tree.write("inner/main.c", "int main(void) { return 0; }\n");
  settle();
  settle();
  std::size_t there = 0;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.label_folder() + "/make"))
    there += entry.path().filename() == "kept" ? 1 : 0;
  EXPECT_EQ(there, 1U);
  auto run = build();
  EXPECT_EQ(run["build"]["ran"], 0);
  tree.write("inner/main.c", "int main(void) { return 1; }\n");
  run = build();
  EXPECT_GE(run["build"]["ran"], 2);
  tree.write("inner/Makefile", "CFLAGS = -O1\nkiln: main.o\n\t$(CC) -o $@ $^\n");
  run = build();
  EXPECT_GE(run["build"]["ran"], 2);
  settle();
  EXPECT_EQ(build()["build"]["ran"], 0);
  const auto kept_by_inner = [&] {
    for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.label_folder() + "/make")) {
      if (entry.path().filename() == "kept") return std::filesystem::last_write_time(entry.path());
    }
    return std::filesystem::file_time_type{};
  };
  const auto before = kept_by_inner();
  EXPECT_FALSE(build({"--rerun"})["plan"]["kept"]);
  EXPECT_NE(kept_by_inner(), before);
}

TEST_F(KeptPlan, AConfigureScriptIsAskedAgainWhenItsTemplatesChange) {
  tree.write("configure", "#!/bin/sh\necho checking for clay... yes\nsed s/@WORD@/brick/ <Makefile.in >Makefile\n");
  ::chmod(tree.path("configure").c_str(), 0755);
  tree.write("Makefile.in", "kiln: main.c\n\t$(CC) -DWORD='\"@WORD@\"' -o $@ main.c\n");
  tree.write("main.c", "#include <stdio.h>\nint main(void) { puts(WORD); return 0; }\n");
  settle();
  EXPECT_EQ(said_by("kiln"), "brick\n");
  EXPECT_TRUE(kept());
  tree.write("Makefile.in", "kiln: main.c\n\t$(CC) -DWORD='\"@WORD@ 2\"' -o $@ main.c\n");
  EXPECT_FALSE(kept());
  EXPECT_EQ(said_by("kiln"), "brick 2\n");
  settle();
}

TEST_F(KeptPlan, ADescriptionThatCannotBeFollowedIsNotReadAgainUntilItChanges) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.20)\nproject(yard C)\n"
             "file(WRITE ${CMAKE_BINARY_DIR}/mark.h \"\")\ninclude(part.cmake)\n");
  tree.write("part.cmake", "fire_up()\n");
  tree.write("Makefile", "kiln: main.o\n\t$(CC) -o $@ $^\n");
  tree.write("main.c", "int main(void) { return 0; }\n");
  EXPECT_EQ(build()["build"]["ran"], 2);
  const auto again = build();
  EXPECT_EQ(again["build"]["ran"], 0);
  EXPECT_EQ(again["survey"]["descriptions"][0]["followed"], false) << again["survey"]["descriptions"];
  EXPECT_FALSE(files::is_file(tree.label_folder() + "/work/mark.h"));
  // Once it can be followed it is.
  tree.write("part.cmake", "add_executable(fire main.c)\n");
  const auto other = build();
  EXPECT_EQ(other["survey"]["descriptions"][0]["followed"], true);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/fire"));
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/work/mark.h"));
  EXPECT_FALSE(files::is_file(tree.label_folder() + "/work/Makefile"));
}

TEST_F(KeptPlan, AScriptIsNot) {
  tree.write("build.sh", "#!/bin/sh\ncc -o kiln main.c\n");
  ::chmod(tree.path("build.sh").c_str(), 0755);
  tree.write("main.c", "int main(void) { return 0; }\n");
  for (int i = 0; i < 3; ++i) EXPECT_FALSE(kept());
}

}  // namespace
}  // namespace coctilis::test
