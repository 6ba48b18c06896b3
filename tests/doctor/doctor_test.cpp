// Why steps fail: what is read out of what compilers and linkers print, and what is looked up in the tree and the plan.
#include "doctor/doctor.h"

#include <cstdlib>

#include "base/process.h"
#include "support.h"

namespace coctilis::doctor {
namespace {

class Failing : public testing::Test {
 protected:
  Failing() {
    // A system on which nothing is installed, and some packages can be.
    const std::string system = tree_.scratch() + "/system";
    ::setenv("COCTILIS_SYSTEM_ROOT", system.c_str(), 1);
    files::write(system + "/var/lib/dpkg/status",
                 "Package: dpkg\nStatus: install ok installed\nArchitecture: amd64\nVersion: 1.21\n\n"
                 "Package: libsqlite3-dev\nStatus: install ok installed\nArchitecture: amd64\nVersion: 3.40.1-2\n");
    files::write(system + "/var/lib/apt/lists/here_Packages",
                 "Package: zlib1g-dev\nVersion: 1:1.2.13.dfsg-1\n\nPackage: bison\nVersion: 2:3.8.2\n\nPackage: "
                 "python3\nVersion: 3.11\n");
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = plan_.kiln + "/work";
    step_.target = "kiln";
    step_.place = {"CMakeLists.txt", 7, 1};
  }
  ~Failing() override { ::unsetenv("COCTILIS_SYSTEM_ROOT"); }
  // The first diagnosis of a step that printed this.
  model::Diagnosis of(const std::string& output) {
    result_.output = output;
    const auto all = diagnose(plan_, step_, result_);
    return all.empty() ? model::Diagnosis{} : all.front();
  }
  static bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }
  test::TreeFolder tree_;
  model::Plan plan_;
  model::Step step_;
  model::StepResult result_;
};

constexpr const char* no_cone = "kiln.c:1:10: fatal error: cone.h: No such file or directory\n";

TEST_F(Failing, AHeaderOfAPackageIsToldWithThePackage) {
  const auto said = of("kiln.c:1:10: fatal error: zlib.h: No such file or directory\n");
  EXPECT_EQ(said.failure, "missing header");
  EXPECT_TRUE(has(said.remedy, "apt-get install zlib1g-dev")) << said.remedy;
}

TEST_F(Failing, AHeaderThatARuleMakesIsToldWithTheRule) {
  model::Step rule;
  rule.outputs = {plan_.work + "/made/cone.h"};
  rule.place = {"CMakeLists.txt", 3, 1};
  plan_.steps.push_back(rule);
  const auto said = of(no_cone);
  EXPECT_TRUE(has(said.remedy, "it is generated (CMakeLists.txt:3:1); 'kiln' neither depends")) << said.remedy;
}

TEST_F(Failing, AHeaderElsewhereInTheTreeIsToldWithItsFolder) {
  tree_.write("clays/cone.h", "");
  const auto said = of(no_cone);
  EXPECT_TRUE(has(said.remedy, "the tree has it in 'clays'")) << said.remedy;
}

TEST_F(Failing, AnEmptyIncludeFolderIsTheFirstSuspect) {
  std::filesystem::create_directories(tree_.path("third/cones"));
  result_.command = "gcc -I" + tree_.path("third/cones") + " -c kiln.c";
  const auto said = of(no_cone);
  EXPECT_TRUE(has(said.remedy, "'third/cones' is empty or not there")) << said.remedy;
}

TEST_F(Failing, AHeaderOfWhichNothingIsKnownMayBeElsewhere) {
  result_.command = "gcc -I" + plan_.kiln + "/none -I/usr/include -c kiln.c";
  EXPECT_TRUE(has(of(no_cone).remedy, "--with PREFIX"));
}

TEST_F(Failing, LibrariesAreToldWithTheirPackages) {
  EXPECT_TRUE(has(of("/usr/bin/ld: cannot find -lz: No such file or directory\n").remedy, "zlib1g-dev"));
  EXPECT_TRUE(has(of("/usr/bin/ld: cannot find -lnothing-known\n").remedy, "--with PREFIX"));
  EXPECT_EQ(of("ld.lld: error: unable to find library -lz\n").failure, "missing library");
}

TEST_F(Failing, ALibraryThatIsNotOnTheLinkLineIsNamedAsItIsLinked) {
  const auto said =
      of("/usr/bin/ld: kiln.o: undefined reference to symbol 'exp@@GLIBC_2.29'\n"
         "/usr/bin/ld: /lib/x86_64-linux-gnu/libm.so.6: error adding symbols: DSO missing from command line\n");
  EXPECT_EQ(said.failure, "library not on the link line");
  EXPECT_EQ(said.cause, "what is used is in 'libm.so.6', which is not on the link line");
  EXPECT_EQ(said.remedy, "link 'm' to 'kiln' (CMakeLists.txt:7:1)");
}

TEST_F(Failing, WhatIsNotThereIsFoundOutWithoutWords) {
  ::setenv("PATH", "/no/such/folder", 1);  // it may well be on this machine
  result_.end = "could not be started: No such file or directory";
  result_.command = "bison -o kiln.c kiln.y";
  const auto said = of("");
  EXPECT_EQ(said.failure, "missing command");
  EXPECT_TRUE(has(said.remedy, "apt-get install bison")) << said.remedy;
}

TEST_F(Failing, WhatInstallingWouldNotMendIsNotToBeInstalled) {
  EXPECT_TRUE(has(of("kiln.c:1:10: fatal error: sqlite3.h: No such file or directory\n").remedy, "is installed, but"));
  // No list knows it.
  const auto said = of("kiln.c:1:10: fatal error: png.h: No such file or directory\n");
  EXPECT_TRUE(has(said.remedy, "none can be installed from the package lists")) << said.remedy;
}

TEST_F(Failing, AScriptThatDoesNotStartIsThereAllTheSame) {
  model::Action action;
  action.folder = tree_.path();
  step_.actions = {action};
  result_.end = "could not be started: No such file or directory";
  result_.command = "./fire.sh";
  tree_.write("fire.sh", "#!/bin/sh\r\necho\r\n");
  std::filesystem::permissions(tree_.path("fire.sh"), std::filesystem::perms::owner_all);
  EXPECT_EQ(of("").failure, "line ends");
  EXPECT_TRUE(has(of("").remedy, "sed -i 's/\\r$//' " + tree_.path("fire.sh"))) << of("").remedy;
  tree_.write("fire.sh", "#!/usr/bin/no-such-interpreter -x\n");
  std::filesystem::permissions(tree_.path("fire.sh"), std::filesystem::perms::owner_all);
  EXPECT_EQ(of("").failure, "missing interpreter");
  EXPECT_TRUE(has(of("").cause, "'/usr/bin/no-such-interpreter'")) << of("").cause;
  // What a shell says of it.
  result_.end = "exit code 127";
  result_.command = "sh -c ./fire.sh";
  EXPECT_EQ(of("sh: 1: ./fire.sh: not found\n").failure, "missing interpreter");
  EXPECT_EQ(of("bash: ./fire.sh: /usr/bin/no-such-interpreter: bad interpreter: No such file or directory\n").failure,
            "missing interpreter");
  EXPECT_EQ(of("/usr/bin/env: 'python3\\r': No such file or directory\n").failure, "line ends");
  tree_.write("fire.sh", "#!/bin/sh\n");
  std::filesystem::permissions(tree_.path("fire.sh"), std::filesystem::perms::owner_read);
  result_.end = "could not be started: Permission denied";
  result_.command = "./fire.sh";
  EXPECT_EQ(of("").failure, "no right to run it");
  step_.actions.front().folder = tree_.path("gone");
  result_.end = "could not be started: No such file or directory";
  EXPECT_EQ(of("").failure, "missing folder");
}

TEST_F(Failing, AToolThatTheTreeBuildsIsNotToBeInstalled) {
  ::setenv("PATH", "/no/such/folder", 1);  // it may well be on this machine
  model::PlannedTarget tool;
  tool.kind = model::TargetKind::program;
  tool.name = "bison";
  tool.output = plan_.work + "/bison";
  tool.place = {"CMakeLists.txt", 3, 1};
  plan_.targets.push_back(tool);
  const auto said = of("sh: 1: bison: not found\n");
  EXPECT_EQ(said.failure, "missing command");
  EXPECT_TRUE(has(said.remedy, "the tree builds it ('bison', CMakeLists.txt:3:1)")) << said.remedy;
}

TEST_F(Failing, ARecipeThatMakesNothingIsNamed) {
  model::Step rule;
  rule.outputs = {plan_.work + "/cone.h"};
  rule.place = {"CMakeLists.txt", 3, 1};
  plan_.steps.push_back(rule);
  step_.inputs = {plan_.work + "/cone.h"};
  const auto said = of(no_cone);
  EXPECT_EQ(said.failure, "missing result");
  EXPECT_TRUE(has(said.cause, "the commands at CMakeLists.txt:3:1 ended well without making 'cone.h'")) << said.cause;
}

TEST_F(Failing, ASourceIsNoHeader) {
  step_.source = tree_.path("kiln.c");
  EXPECT_EQ(of("cc1: fatal error: " + step_.source + ": No such file or directory\n").failure, "missing source");
}

TEST_F(Failing, TwoMainsAreTwoPrograms) {
  const auto said =
      of("/usr/bin/ld: /k/b.c.o: in function `main':\nb.c:(.text.startup+0x0): multiple definition of `main'; "
         "/k/a.c.o:a.c:(.text.startup+0x0): first defined here\n");
  EXPECT_EQ(said.failure, "two main functions");
  EXPECT_TRUE(has(said.cause, "'a.c' and 'b.c'")) << said.cause;
  EXPECT_FALSE(has(said.remedy, "static")) << said.remedy;
  EXPECT_TRUE(
      has(of("x.o: multiple definition of `cone'; y.o:y.c:(.data+0x0): first defined here\n").remedy, "static"));
}

TEST_F(Failing, ALibraryInTheWrongPlaceIsOnTheLine) {
  tree_.write("clay.c", "int clay(void) { return 1; }\n");
  tree_.write("glaze.c", "int clay(void);\nint glaze(void) { return clay(); }\n");
  for (const char* name : {"clay", "glaze"}) {
    Command compile;
    compile.folder = tree_.path();
    compile.argv = {"cc", "-c", std::string(name) + ".c"};
    ASSERT_TRUE(run(compile).good());
    Command gather;
    gather.folder = tree_.path();
    gather.argv = {"ar", "qcs", std::string("lib") + name + ".a", std::string(name) + ".o"};
    ASSERT_TRUE(run(gather).good());
  }
  model::Action action;
  action.folder = tree_.path();
  step_.actions = {action};
  result_.command = "cc -o fire fire.o libclay.a -L. -lglaze";
  const std::string words =
      "/usr/bin/ld: ./libglaze.a(glaze.o): in function `glaze':\nglaze.c:(.text+0x1): undefined reference to `clay'\n";
  EXPECT_TRUE(has(of(words).cause, "'libclay.a' defines 'clay', but stands on the link line before 'libglaze.a'"))
      << of(words).cause;
  result_.command = "cc -o fire fire.o -L. -lglaze";
  EXPECT_TRUE(has(of(words).cause, "no object or library on the link line defines it")) << of(words).cause;
  model::PlannedTarget clay;
  clay.kind = model::TargetKind::static_library;
  clay.name = "clay";
  clay.output = tree_.path("libclay.a");
  clay.place = {"CMakeLists.txt", 3, 1};
  plan_.targets.push_back(clay);
  EXPECT_TRUE(has(of(words).remedy, "'clay' (CMakeLists.txt:3:1) defines it: link it to 'kiln'")) << of(words).remedy;
}

TEST_F(Failing, WritingElsewhereIsTold) {
  result_.refused = true;
  EXPECT_EQ(of("cp: cannot create '/etc/kiln': Permission denied\n").failure, "writing elsewhere");
}

TEST_F(Failing, WhatTheKernelStoppedRanOutOfMemory) {
  result_.end = "ended by signal 9 (Killed)";
  EXPECT_EQ(of("").failure, "out of memory");
}

TEST_F(Failing, NothingIsMadeUp) {
  EXPECT_TRUE(diagnose(plan_, step_, result_).empty());
  EXPECT_EQ(of("the clay is too wet\n").failure, "");
}

TEST_F(Failing, AllThatIsKnownIsTold) {
  result_.output =
      "ld: cannot find -lz\nkiln.o: undefined reference to `fire'\nmultiple definition of `cone'\n"
      "recompile with -fPIC\n";
  EXPECT_EQ(diagnose(plan_, step_, result_).size(), 4U);
}

}  // namespace
}  // namespace coctilis::doctor
