// The environment in which results run, prefixes that every kind of tree finds, and what is built from source first.
#include "support.h"

namespace coctilis::test {
namespace {

class Environments : public DrivenTree {
 protected:
  // A library and a program in a prefix.
  void make_prefix(const std::string& value) const {
    files::write(prefix() + "/clay.c", "int clay(void) { return " + value + "; }\n");
    files::write(prefix() + "/include/clay.h", "int clay(void);\n");
    files::make_folder(prefix() + "/lib");
    files::make_folder(prefix() + "/bin");
    Command command;
    command.argv = {"cc", "-shared", "-fPIC", "-o", prefix() + "/lib/libclay.so", prefix() + "/clay.c"};
    EXPECT_TRUE(coctilis::run(command).good());
    files::write(prefix() + "/bin/claytool", "#!/bin/sh\necho tool\n");
    std::filesystem::permissions(prefix() + "/bin/claytool", std::filesystem::perms::all);
  }
  [[nodiscard]] std::string prefix() const { return tree.scratch() + "/prefix"; }
  void write_program() const {
    tree.write("kiln.c",
               "#include <clay.h>\n#include <stdio.h>\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  }
};

TEST_F(Environments, PrefixesReachMakefiles) {
  make_prefix("3");
  write_program();
  tree.write("Makefile", "all: kiln said\nkiln: kiln.c\n\t$(CC) -o $@ $< -lclay\nsaid:\n\tclaytool > $@\n");
  const auto said = run("bringup", {"--with", prefix()});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "3\n");
  // Without it the library is not there, and with it all is as it was.
  EXPECT_NE(run("build").exit, 0);
  EXPECT_EQ(run("build", {"--with", prefix()}).exit, 0);
  EXPECT_NE(run("build", {"--with", prefix()}).all().find("up to date"), std::string::npos);
}

TEST_F(Environments, AHeaderOfAPrefixThatAppearsIsSeen) {
  make_prefix("3");
  write_program();
  tree.write("kiln.c", "#include <zlib.h>\nint main(void) { return YARD + 0 * sizeof(ZLIB_VERSION); }\n");
  tree.write("Makefile", "kiln: kiln.c\n\t$(CC) -DYARD=0 -o $@ $<\n");
  ASSERT_EQ(run("build", {"--with", prefix()}).exit, 0);
  files::write(prefix() + "/include/zlib.h", "#error another one\n");
  EXPECT_EQ(run("build", {"--with", prefix()}).exit, 5);
}

TEST_F(Environments, PrefixesReachScriptsAndConfigureScripts) {
  make_prefix("5");
  write_program();
  tree.write("configure",
             "#!/bin/sh\nclaytool > tool.txt || exit 1\necho 'kiln: kiln.c\n\t$(CC) -o $@ kiln.c -lclay' > Makefile\n");
  std::filesystem::permissions(tree.path("configure"), std::filesystem::perms::all);
  const auto configured = run("bringup", {"--with", prefix()});
  ASSERT_EQ(configured.exit, 0) << configured.all();
  EXPECT_EQ(said_by("kiln"), "5\n");
  std::filesystem::remove(tree.path("configure"));
  tree.write("build.sh", "#!/bin/sh\nclaytool && cc -o kiln kiln.c -lclay\n");
  const auto scripted = run("bringup", {"--with", prefix()});
  ASSERT_EQ(scripted.exit, 0) << scripted.all();
  EXPECT_EQ(said_by("kiln"), "5\n");
}

TEST_F(Environments, PrefixesReachSources) {
  make_prefix("7");
  write_program();
  const auto said = run("bringup", {"--with", prefix()});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "7\n");
}

TEST_F(Environments, IsToldToShellsAndGivenToCommands) {
  make_prefix("3");
  write_program();
  tree.write("Makefile", "kiln: kiln.c\n\t$(CC) -o $@ $< -lclay\n");
  auto said = run("env");
  EXPECT_EQ(said.exit, 2);
  EXPECT_NE(said.all().find("nothing is built"), std::string::npos) << said.all();
  ASSERT_EQ(run("build", {"--with", prefix()}).exit, 0);
  said = run("env");
  EXPECT_EQ(said.exit, 0) << said.all();
  Command shell;
  shell.argv = {"sh", "-c", "eval \"$1\"; kiln; claytool", "sh", said.out};
  EXPECT_EQ(coctilis::run(shell).output, "3\ntool\n");
  const auto told = run("env", {"--json"}).json();
  EXPECT_EQ(told["before"]["PATH"][0], tree.label_folder() + "/bin");
  EXPECT_EQ(told["before"]["LD_LIBRARY_PATH"].back(), prefix() + "/lib");
  const auto ran = run("env", {"--", "sh", "-c", "kiln; exit 4"});
  EXPECT_EQ(ran.exit, 4);
  EXPECT_EQ(ran.out, "3\n");
  EXPECT_EQ(run("env", {"--", "no-such-program"}).exit, 2);
}

class Dependencies : public DrivenTree {
 protected:
  Dependencies() {
    library("glaze", "", "2");
    library("clay", "glaze", "40");
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(kiln C)\nfind_package(clay REQUIRED)\n"
               "add_executable(kiln kiln.c)\ntarget_link_libraries(kiln clay)\n");
    tree.write("kiln.c",
               "#include <clay.h>\n#include <stdio.h>\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
    tree.write("coctilis.toml",
               "[[source]]\nfolder = \"vendor/clay\"\n[[source]]\nfolder = \"vendor/glaze\"\n"
               "[[need]]\nlibrary = \"clay\"\nsource = \"clay\"\n[[need]]\nlibrary = \"glaze\"\nsource = \"glaze\"\n");
  }
  void library(const std::string& name, const std::string& needs, const std::string& value) const {
    const std::string folder = "vendor/" + name + "/";
    tree.write(folder + "CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(" + name + " C)\n" +
                   (needs.empty() ? "" : "find_package(" + needs + " REQUIRED)\n") + "add_library(" + name +
                   " SHARED " + name + ".c)\ntarget_include_directories(" + name +
                   " PUBLIC $<INSTALL_INTERFACE:include>)\n" +
                   (needs.empty() ? "" : "target_link_libraries(" + name + " PRIVATE " + needs + ")\n") +
                   "install(TARGETS " + name + " EXPORT " + name + " LIBRARY DESTINATION lib)\ninstall(FILES " + name +
                   ".h DESTINATION include)\ninstall(EXPORT " + name + " DESTINATION lib/cmake/" + name + " FILE " +
                   name + "-config.cmake)\n");
    tree.write(folder + name + ".h", "int " + name + "(void);\n");
    tree.write(folder + name + ".c", (needs.empty() ? "" : "#include <" + needs + ".h>\n") + "int " + name +
                                         "(void) { return " + value + (needs.empty() ? "" : " + " + needs + "()") +
                                         "; }\n");
  }
  Said bring_up(const std::string& command = "build") const {
    return coctilis({command, tree.path(), "--kiln", tree.kiln()}, {{"XDG_CACHE_HOME", tree.scratch() + "/cache"}});
  }
};

TEST_F(Dependencies, AreBuiltFirstAndKeptForAllTrees) {
  const auto said = bring_up("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "42\n");
  // In another kiln they are there.
  const auto again = coctilis({"build", tree.path(), "--kiln", tree.scratch() + "/second"},
                              {{"XDG_CACHE_HOME", tree.scratch() + "/cache"}});
  ASSERT_EQ(again.exit, 0) << again.all();
  EXPECT_EQ(again.all().find("member"), std::string::npos) << again.all();
  // One that has changed is built again, with what is built on it.
  library("glaze", "", "3");
  ASSERT_EQ(bring_up().exit, 0);
  EXPECT_EQ(said_by("kiln"), "43\n");
  EXPECT_NE(bring_up().all().find("up to date"), std::string::npos);
  // Of one alone the others stay.
  library("clay", "glaze", "50");
  const auto one = bring_up();
  ASSERT_EQ(one.exit, 0) << one.all();
  EXPECT_EQ(one.all().find("member glaze"), std::string::npos) << one.all();
  EXPECT_EQ(said_by("kiln"), "53\n");
}

TEST_F(Dependencies, WhatSomebodyTookAwayIsBuiltAgain) {
  ASSERT_EQ(bring_up().exit, 0);
  for (const auto& entry : std::filesystem::directory_iterator(tree.scratch() + "/cache/coctilis/built")) {
    if (entry.is_directory()) std::filesystem::remove_all(entry.path() / "include");
  }
  tree.write("kiln.c", tree.read("kiln.c") + "/* changed */\n");
  const auto said = bring_up();
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Dependencies, FailuresHaveTheirNameAndPlace) {
  tree.write("vendor/glaze/glaze.c", "int glaze(void) { oops }\n");
  auto said = bring_up();
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("the need 'glaze', which is built from source first: compile glaze.c"), std::string::npos)
      << said.all();
  std::filesystem::remove_all(tree.path("vendor/glaze"));
  said = bring_up();
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("the source 'glaze' is not there"), std::string::npos) << said.all();
  tree.write("coctilis.toml", "[[need]]\nlibrary = \"clay\"\nsource = \"stone\"\n");
  said = bring_up();
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_NE(said.all().find("coctilis.toml:3"), std::string::npos) << said.all();
  tree.write("coctilis.toml",
             "[[source]]\nfolder = \"../elsewhere\"\n[[need]]\nlibrary = \"clay\"\nsource = \"elsewhere\"\n");
  EXPECT_EQ(bring_up().exit, 2);
}

TEST_F(Dependencies, SeveralVariantsStandSideBySide) {
  const auto said = coctilis({"build", tree.path(), "--kiln", tree.kiln(), "--variant", "debug,release"},
                             {{"XDG_CACHE_HOME", tree.scratch() + "/cache"}});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("variants variant debug release became built built"), std::string::npos) << said.all();
  EXPECT_EQ(coctilis({"build", tree.path(), "--kiln", tree.kiln(), "--variant", "debug,cold"}).exit, 2);
}

}  // namespace
}  // namespace coctilis::test
