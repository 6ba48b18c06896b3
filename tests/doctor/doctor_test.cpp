// Why steps fail: what is read out of what compilers and linkers print, and what is looked up in the tree and the plan.
#include "doctor/doctor.h"

#include "support.h"

namespace coctilis::doctor {
namespace {

class Failing : public testing::Test {
 protected:
  Failing() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = plan_.kiln + "/work";
    step_.target = "kiln";
    step_.place = {"CMakeLists.txt", 7, 1};
  }
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
  result_.end = "could not be started: No such file or directory";
  result_.command = "bison -o kiln.c kiln.y";
  const auto said = of("");
  EXPECT_EQ(said.failure, "missing command");
  EXPECT_TRUE(has(said.remedy, "apt-get install bison")) << said.remedy;
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
