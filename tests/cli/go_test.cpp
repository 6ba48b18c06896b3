// Trees in Go, driven from end to end with the tools that are here.
#include "support.h"

namespace coctilis::test {
namespace {

class Go : public DrivenTree {
 protected:
  void SetUp() override {
    if (!files::is_file("/usr/bin/go")) GTEST_SKIP() << "there is no distribution of Go (golang-go)";
    const std::string demo = TEST_SOURCE "/demo/yard-go";
    for (const auto& entry : std::filesystem::recursive_directory_iterator(demo)) {
      if (entry.is_regular_file())
        tree.write(files::below(entry.path().string(), demo), files::read(entry.path()).value_or(""));
    }
  }
  [[nodiscard]] std::string says(const std::string& program) const {
    return coctilis::run({{tree.label_folder() + "/bin/" + program}}).output;
  }
  void change(const std::string& file, const std::string& from, const std::string& to) const {
    std::string text = tree.read(file);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos) << from;
    tree.write(file, text.replace(at, from.size(), to));
  }
};

TEST_F(Go, TheDemoComesUpWithItsPage) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("cones"),
            "cone 4: 1186 degrees, honey\ncone 6: 1222 degrees, honey\ncone 10: 1305 degrees, celadon\n"
            "fired with wood in the kiln by the river\n");
  const auto again = run("bringup");
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(Go, ATerminalChangesNothing) {
  const auto said = built_on_a_terminal();
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Go, TagsAndWordsForTheLinkerAreOptions) {
  ASSERT_EQ(run("build", {"--set", "tags=gas", "--set", "ldflags=-X main.version=2.1"}).exit, 0);
  EXPECT_NE(says("cones").find("fired with gas"), std::string::npos);
  EXPECT_NE(files::read(tree.label_folder() + "/bin/yard-server").value_or("").find("2.1"), std::string::npos);
  ASSERT_EQ(run("build", {"--unset", "tags"}).exit, 0);
  EXPECT_NE(says("cones").find("fired with wood"), std::string::npos);
}

TEST_F(Go, WhatChangesIsCompiledAgainAndNothingElse) {
  ASSERT_EQ(run("build").exit, 0);
  // A body that others do not see: the package, and the program that is linked with it.
  change("vendor/yard.example/glaze/glaze.go", "celadon", "seladon");
  auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(says("cones").find("seladon"), std::string::npos);
  change("internal/page/pages/index.html", "1222", "1223");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_NE(files::read(tree.label_folder() + "/bin/yard-server").value_or("").find("1223"), std::string::npos);
  // A file that comes is one of the package; one that goes is none any more.
  tree.write("firing/more.go", "package firing\n\nconst More = 1\n");
  ASSERT_EQ(run("build").exit, 0);
  change("cmd/cones/main.go", "firing.Kiln)", "firing.Kiln, firing.More)");
  ASSERT_EQ(run("build").exit, 0);
  std::filesystem::remove(tree.path("firing/more.go"));
  said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("cmd/cones/main.go:15"), std::string::npos) << said.all();
}

TEST_F(Go, AModuleThatIsNowhereIsARequirement) {
  std::filesystem::remove_all(tree.path("vendor"));
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("yard.example/glaze"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("go.mod:6"), std::string::npos) << said.all();
  // From a prefix it is taken.
  files::write(tree.scratch() + "/prefix/share/gocode/src/yard.example/glaze/glaze.go",
               "package glaze\n\nfunc Colour(cone int) string { return \"red\" }\n");
  ASSERT_EQ(run("build", {"--with", tree.scratch() + "/prefix"}).exit, 0);
  EXPECT_NE(says("cones").find("cone 6: 1222 degrees, red"), std::string::npos);
}

TEST_F(Go, WhatTheStandardLibraryDoesNotHaveIsSaid) {
  change("cmd/cones/main.go", "\t\"fmt\"\n", "\t\"fmt\"\n\t_ \"net/no-such\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("has no package net/no-such"), std::string::npos) << said.all();
}

TEST_F(Go, SeveralModulesOfAWorkspace) {
  tree.write("go.work", "go 1.18\n\nuse (\n\t.\n\t./tools\n)\n");
  tree.write("tools/go.mod", "module yard.example/tools\n\ngo 1.18\n");
  tree.write(
      "tools/main.go",
      "package main\n\nimport \"yard.example/brickyard/firing\"\n\nfunc main() { println(firing.Temperature(6)) }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("tools"), "1222\n");
}

TEST_F(Go, TestsOfPackagesRunBesideTheirSources) {
  auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("passed tests of yard.example/brickyard/firing"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("passed tests of yard.example/brickyard/internal/page"), std::string::npos) << said.all();
  // What was measured is another: a file that the test opens where its sources are.
  change("firing/testdata/measured.txt", "1222", "1223");
  said = run("smoke");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("cone 6: 1222 degrees, and 1223 were measured"), std::string::npos) << said.all();
  change("firing/testdata/measured.txt", "1223", "1222");
  change("firing/firing.go", "1222", "1221");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  // Of the package itself, and of the one beside it.
  EXPECT_NE(said.all().find("cone 6: 1221 degrees, and 1222 were measured"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("cone 6 is 1221 degrees"), std::string::npos) << said.all();
  ASSERT_EQ(run("build", {"--set", "tests=off"}).exit, 0);
  EXPECT_FALSE(files::exists(tree.label_folder() + "/bin/firing-tests"));
}

TEST_F(Go, ProgramsThatRunTestsMayEndByThemselves) {
  tree.write("firing/main_test.go",
             "package firing\n\nimport (\n\t\"os\"\n\t\"testing\"\n)\n\nvar lit bool\n\nfunc TestMain(m *testing.M) {\n"
             "\tlit = os.Getenv(\"LIT\") == \"\"\n\tm.Run()\n}\n\nfunc TestLit(t *testing.T) {\n\tif !lit {\n"
             "\t\tt.Error(\"the kiln is cold\")\n\t}\n}\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  change("firing/main_test.go", "== \"\"", "== \"x\"");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("the kiln is cold"), std::string::npos) << said.all();
  // One that ends in the midst of its tests has not passed them.
  change("firing/main_test.go", "t.Error(\"the kiln is cold\")", "os.Exit(0)");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
}

TEST_F(Go, TestsBesideAPackageSeeItAsItIsWithTests) {
  // The package page of the tree imports firing; tests of firing import page: both have to be of one firing.
  change("internal/page/page.go", "\t\"net/http\"\n", "\t\"net/http\"\n\n\t\"yard.example/brickyard/firing\"\n");
  change("internal/page/page.go", "var pages embed.FS\n",
         "var pages embed.FS\n\n// Log of the yard.\nvar Log = firing.Log{}\n");
  tree.write("firing/log.go",
             "package firing\n\ntype Log struct{}\n\nfunc (Log) Lines() int { return lines }\n\nvar lines = 1\n");
  tree.write("firing/set_test.go", "package firing\n\nfunc SetLines(n int) { lines = n }\n");
  tree.write("firing/log_test.go",
             "package firing_test\n\nimport (\n\t\"testing\"\n\n\t\"yard.example/brickyard/firing\"\n"
             "\t\"yard.example/brickyard/internal/page\"\n)\n\nfunc TestLog(t *testing.T) {\n\tfiring.SetLines(4)\n"
             "\tvar log firing.Log = page.Log\n\tif log.Lines() != 4 {\n\t\tt.Error(\"two packages\")\n\t}\n}\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(run("bringup").all().find("up to date"), std::string::npos);
  // A test of the package itself cannot import what imports the package.
  tree.write("firing/circle_test.go",
             "package firing\n\nimport (\n\t\"testing\"\n\n\t\"yard.example/brickyard/internal/page\"\n)\n\n"
             "func TestCircle(t *testing.T) { _ = page.Log }\n");
  said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("firing/circle_test.go:6"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("which imports yard.example/brickyard/firing itself"), std::string::npos) << said.all();
}

TEST_F(Go, APackageMayBeCalledAsTestsBesideAnotherAre) {
  tree.write("firing_test/wall.go", "package wall\n\nconst Wall = 1\n");
  const auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("passed tests of yard.example/brickyard/firing"), std::string::npos) << said.all();
}

TEST_F(Go, TestsThatLackSomethingAreLeftOutAndSaid) {
  tree.write("firing/wall_test.go",
             "package firing\n\nimport (\n\t\"testing\"\n\n\t\"yard.example/masonry\"\n)\n\n"
             "func TestWall(t *testing.T) { masonry.Wall() }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("yard.example/masonry"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("passed  tests of yard.example/brickyard/firing\n"), std::string::npos) << said.all();
  EXPECT_FALSE(files::exists(tree.label_folder() + "/bin/firing-tests"));
  EXPECT_TRUE(files::exists(tree.label_folder() + "/bin/page-tests"));
}

TEST_F(Go, AProgramKnowsWhatItWasMadeOf) {
  tree.write(
      "cmd/cones/info.go",
      "package main\n\nimport (\n\t\"fmt\"\n\t\"runtime/debug\"\n)\n\nfunc init() {\n\tinfo, _ := "
      "debug.ReadBuildInfo()\n"
      "\tfmt.Println(info.Main.Path, info.Deps[0].Path, info.Deps[0].Version)\n\tfor _, one := range info.Settings {\n"
      "\t\tfmt.Println(one.Key, one.Value)\n\t}\n}\n");
  const auto git = [&](const std::vector<std::string>& words) {
    Command command;
    command.argv = {"git", "-C", tree.path(), "-c", "user.name=yard", "-c", "user.email=yard@brickyard.example"};
    command.argv.insert(command.argv.end(), words.begin(), words.end());
    return coctilis::run(command).output;
  };
  git({"init", "-q"});
  git({"add", "-A"});
  git({"commit", "-q", "-m", "a day at the yard"});
  auto said = run("build", {"--set", "tags=gas"});
  ASSERT_EQ(said.exit, 0) << said.all();
  const std::string first = says("cones");
  EXPECT_NE(first.find("yard.example/brickyard yard.example/glaze v1.4.0\n"), std::string::npos) << first;
  EXPECT_NE(first.find("-tags gas\n"), std::string::npos) << first;
  EXPECT_NE(first.find("vcs.revision " + git({"rev-parse", "HEAD"})), std::string::npos) << first;
  // Another revision is another program.
  git({"commit", "-q", "--allow-empty", "-m", "another day"});
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_NE(says("cones").find("vcs.revision " + git({"rev-parse", "HEAD"})), std::string::npos);
}

TEST_F(Go, AssemblerIsPartOfAPackage) {
#if !defined(__x86_64__)
  GTEST_SKIP() << "the assembler is that of x86_64";
#endif
  tree.write("firing/add_amd64.s",
             "#include \"textflag.h\"\n\nTEXT ·Add(SB), NOSPLIT, $0-24\n\tMOVQ a+0(FP), AX\n\tADDQ b+8(FP), AX\n"
             "\tMOVQ AX, ret+16(FP)\n\tRET\n");
  tree.write("firing/add_amd64.go", "package firing\n\n// Add adds.\nfunc Add(a, b int64) int64\n");
  change("cmd/cones/main.go", "firing.Kiln)", "firing.Kiln, firing.Add(40, 2))");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(says("cones").find("river 42"), std::string::npos);
}

TEST_F(Go, APackageMayCallC) {
  tree.write("firing/heat.c", "#include \"heat.h\"\nint heat_of(int cone) { return HEAT + cone; }\n");
  tree.write("firing/heat.h", "#define HEAT 1200\nint heat_of(int cone);\n");
  tree.write(
      "firing/heat.go",
      "package firing\n\n// #cgo CFLAGS: -DNOTHING\n// #cgo windows LDFLAGS: -lno-such-library\n// #cgo LDFLAGS: -lm\n"
      "// #include <math.h>\n// #include \"heat.h\"\nimport \"C\"\n\n// Heat tells.\nfunc Heat(cone int) int {\n"
      "\treturn int(C.heat_of(C.int(cone))) + int(C.sqrt(16))\n}\n");
  change("cmd/cones/main.go", "firing.Kiln)", "firing.Kiln, firing.Heat(6))");
  auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(says("cones").find("river 1210"), std::string::npos) << says("cones");
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  // What C includes counts.
  tree.write("firing/heat.h", "#define HEAT 1300\nint heat_of(int cone);\n");
  said = run("build");
  EXPECT_NE(says("cones").find("river 1310"), std::string::npos) << said.all();
  // A library that is not there is a requirement, with the place that asks for it.
  change("firing/heat.go", "LDFLAGS: -lm", "LDFLAGS: -lno-such-library");
  said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("firing/heat.go:8"), std::string::npos) << said.all();
}

TEST_F(Go, SourcesThatCallCCanBeLeftOut) {
  tree.write("firing/heat_c.go", "package firing\n\nimport \"C\"\n\nconst Heat = \"by C\"\n");
  tree.write("firing/heat_go.go", "//go:build !cgo\n\npackage firing\n\nconst Heat = \"by Go\"\n");
  change("cmd/cones/main.go", "firing.Kiln)", "firing.Kiln, firing.Heat)");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_NE(says("cones").find("by C"), std::string::npos);
  ASSERT_EQ(run("build", {"--set", "cgo=off"}).exit, 0);
  EXPECT_NE(says("cones").find("by Go"), std::string::npos);
}

TEST_F(Go, ATreeWithoutAModuleFileIsOne) {
  std::filesystem::remove(tree.path("go.mod"));
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(says("cones").find("cone 6: 1222 degrees, honey"), std::string::npos);
}

TEST_F(Go, AModuleOfOneWordMayBeCalledLikeItsProgram) {
  const TreeFolder small;
  small.write("go.mod", "module cones\n\ngo 1.18\n");
  small.write("heat/heat.go", "package heat\n\nfunc Of(cone int) int { return 1200 + cone }\n");
  small.write("main.go", "package main\n\nimport \"cones/heat\"\n\nfunc main() { println(heat.Of(6)) }\n");
  const auto built = [&] {
    const auto said = test::coctilis({"build", small.path(), "--kiln", small.kiln()});
    EXPECT_EQ(said.exit, 0) << said.all();
    return ::coctilis::run({{small.label_folder() + "/bin/cones"}}).output;
  };
  EXPECT_EQ(built(), "1206\n");
  // The package of the module itself, and a program beside it with the same name.
  std::filesystem::remove(small.path("main.go"));
  small.write("cones.go", "package cones\n\nimport \"cones/heat\"\n\nfunc Hot() int { return heat.Of(7) }\n");
  small.write("cmd/cones/main.go", "package main\n\nimport \"cones\"\n\nfunc main() { println(cones.Hot()) }\n");
  EXPECT_EQ(built(), "1207\n");
}

struct WrongGo {
  const char* name;
  const char* file;
  const char* text;
  int exit;
  const char* says;
};
class GoBroken : public Go, public testing::WithParamInterface<WrongGo> {};
TEST_P(GoBroken, IsToldWithItsPlace) {
  tree.write(GetParam().file, GetParam().text);
  const auto said = run("build");
  EXPECT_EQ(said.exit, GetParam().exit) << said.all();
  EXPECT_NE(said.all().find(GetParam().says), std::string::npos) << said.all();
  EXPECT_NE(said.all().find(GetParam().file), std::string::npos) << said.all();
}
INSTANTIATE_TEST_SUITE_P(
    Trees, GoBroken,
    testing::Values(
        WrongGo{"TwoPackages", "firing/other.go", "package other\n", 4, "the folder has two packages"},
        WrongGo{"NoPackage", "firing/broken.go", "func main() {}\n", 4, "package clause"},
        WrongGo{"Constraint", "firing/broken.go", "//go:build (linux\n\npackage firing\n", 4,
                "constraint cannot be read"},
        WrongGo{"EmbedsNothing", "firing/embed.go",
                "package firing\n\nimport _ \"embed\"\n\n//go:embed gone.txt\nvar gone string\n", 4, "takes no file"},
        WrongGo{"EmbedsOutside", "firing/embed.go",
                "package firing\n\nimport _ \"embed\"\n\n//go:embed ../go.mod\nvar gone string\n", 4,
                "leads out of the package"},
        WrongGo{"DoesNotCompile", "firing/wrong.go", "package firing\n\nvar x int = \"clay\"\n", 5,
                "firing/wrong.go:3"},
        WrongGo{"ModuleLine", "go.mod", "module yard.example/brickyard\nbuild all\n", 4, "'build' is not known here"}),
    [](const auto& one) { return one.param.name; });

TEST_F(Go, PackagesThatImportEachOtherInACircle) {
  tree.write("a/a.go", "package a\n\nimport _ \"yard.example/brickyard/b\"\n");
  tree.write("b/b.go", "package b\n\nimport _ \"yard.example/brickyard/a\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("packages import each other in a circle"), std::string::npos) << said.all();
}

TEST_F(Go, AReplacementThatLeadsOutOfTheTree) {
  change("go.mod", "require", "replace yard.example/clay => ../clay\n\nrequire");
  tree.write("a/a.go", "package a\n\nimport _ \"yard.example/clay\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("leads out of the tree"), std::string::npos) << said.all();
}

TEST_F(Go, WhatIsInternalIsForThoseBesideIt) {
  change("vendor/yard.example/glaze/glaze.go", "package glaze\n",
         "package glaze\n\nimport _ \"yard.example/brickyard/internal/page\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("which is internal to yard.example/brickyard"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("glaze.go:4"), std::string::npos) << said.all();
}

TEST_F(Go, TagsThatLeaveOutEverything) {
  for (const char* path : {"cmd", "firing", "internal", "vendor"}) std::filesystem::remove_all(tree.path(path));
  tree.write("kiln.go", "//go:build gas\n\npackage main\n\nfunc main() {}\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("it has no packages for this machine"), std::string::npos) << said.all();
  EXPECT_EQ(run("build", {"--set", "tags=gas"}).exit, 0);
}

}  // namespace
}  // namespace coctilis::test
