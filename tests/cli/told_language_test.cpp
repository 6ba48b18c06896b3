// Languages that coctilis.toml tells of, driven from end to end: one made up here, and two whose compilers may be here.
#include "support.h"

namespace coctilis::test {
namespace {

class ToldLanguage : public DrivenTree {
 protected:
  // A compiler of recipes for glazes. "say WORDS" and "take FILE" are all that there is; an object is one of C.
  void SetUp() override {
    tree.write("bin/glazec",
               "#!/bin/sh\n# glazec OUT SOURCE [-v]\n[ \"$1\" = --version ] && { echo glazec 1.4.2; exit; }\n"
               "out=$1; in=$2; shift 2\n"
               "name=$(basename \"$in\" .glaze)\n"
               "lines() { while read -r word rest; do case $word in\n"
               "  say) echo \"puts(\\\"$rest\\\");\";;\n  take) lines <\"$(dirname \"$in\")/$rest\" || exit 1;;\n"
               "  begin|'') ;;\n  *) echo \"$in: no such word: $word\" >&2; exit 1;; esac; done; }\n"
               "{ echo '#include <stdio.h>'; grep -q '^begin' \"$in\" && name=main; echo \"int $name(void) {\"; "
               "lines <\"$in\" || exit 1; echo 'return 0; }'; } >\"$out.c\" || exit 1\n"
               "[ -z \"$LATER\" ] || cat \"$LATER\"\n"
               "exec cc -c -o \"$out\" \"$out.c\"\n");
    std::filesystem::permissions(tree.path("bin/glazec"), std::filesystem::perms::owner_all);
    tree.write("cones.glaze", "begin\nsay cone 6\ntake list.inc\n");
    tree.write("list.inc", "say honey\n");
    write_settings();
  }
  void write_settings(const std::string& more = {}, const std::string& compiler = "glazec") const {
    tree.write("coctilis.toml", "[[need]]\nkit = \"glazes\"\nprefix = \"" + tree.path() + "\"\n" +
                                    "[language.Glaze]\nendings = [\".glaze\"]\n" +
                                    "included = [\".inc\"]\ncompiler = \"" + compiler +
                                    "\"\ncommand = [\"${output}\", \"${source}\", \"${options}\"]\n"
                                    "entry = \"^begin$\"\n" +
                                    more);
  }
  [[nodiscard]] std::string says(const std::string& name = "cones") const {
    return coctilis::run({{tree.label_folder() + "/bin/" + name}}).output;
  }
};

TEST_F(ToldLanguage, SourcesComeToPrograms) {
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "cone 6\nhoney\n");
  said = run("locate");
  EXPECT_NE(said.all().find("glazec 1.4.2"), std::string::npos) << said.all();
  said = run("survey");
  EXPECT_NE(said.all().find("cones.glaze:1"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("Glaze"), std::string::npos) << said.all();
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  // What the source takes in is seen, also what was not there before.
  tree.write("list.inc", "say celadon\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says(), "cone 6\nceladon\n");
  // So is the compiler.
  tree.write("bin/glazec", tree.read("bin/glazec") + "# another\n");
  std::filesystem::permissions(tree.path("bin/glazec"), std::filesystem::perms::owner_all);
  said = run("build");
  EXPECT_EQ(said.all().find("all 2 steps up to date"), std::string::npos) << said.all();
  // Options count, and those of a variant.
  write_settings("debug = [\"-v\"]\n");
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  EXPECT_EQ(run("build", {"--variant", "debug"}).exit, 0);
}

TEST_F(ToldLanguage, AFailureIsTheCompilersOwn) {
  tree.write("list.inc", "burn\n");
  auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("no such word: burn"), std::string::npos) << said.all();
  std::filesystem::remove(tree.path("list.inc"));
  EXPECT_EQ(run("build").exit, 5);
  tree.write("list.inc", "say honey\n");
  EXPECT_EQ(run("build").exit, 0);
}

TEST_F(ToldLanguage, TwoProgramsOfOneNameAreTwo) {
  tree.write("cones.c", "#include <stdio.h>\nint main(void) { return puts(\"in C\") < 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("cones"), "in C\n");
  EXPECT_EQ(says("cones-2"), "cone 6\nhoney\n");
}

TEST_F(ToldLanguage, TargetsAreNamedAndUseEachOther) {
  tree.write("firing.glaze", "say firing\n");
  tree.write("kiln.c", "int firing(void);\nint main(void) { return firing(); }\n");
  write_settings(
      "[[target]]\nname = \"firing\"\nkind = \"archive\"\nsources = [\"firing.glaze\"]\n"
      "[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"kiln.c\"]\nuse = [\"firing\"]\n"
      "[[target]]\nname = \"table\"\nkind = \"program\"\nsources = [\"cones.glaze\"]\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("kiln"), "firing\n");
  EXPECT_EQ(says("table"), "cone 6\nhoney\n");
  tree.write("firing.glaze", "say cooling\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says("kiln"), "cooling\n");
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  EXPECT_EQ(coctilis::run({{prefix + "/bin/table"}}).output, "cone 6\nhoney\n");
}

TEST_F(ToldLanguage, WhatAnotherStarts) {
  // A folder of texts, and what reads them.
  tree.write("bin/read-all", "#!/bin/sh\ncat \"$1\"/*.txt\n");
  tree.write(
      "bin/textc",
      "#!/bin/sh\nout=$1; shift; mkdir -p \"$out\"; for f; do tr a-z A-Z <$f >\"$out/$(basename $f).txt\"; done\n");
  for (const char* name : {"bin/read-all", "bin/textc"})
    std::filesystem::permissions(tree.path(name), std::filesystem::perms::owner_all);
  tree.write("a.text", "begin honey\n");
  tree.write("b.text", "celadon\n");
  tree.write(
      "coctilis.toml",
      "[[need]]\nkit = \"texts\"\nprefix = \"" + tree.path() +
          "\"\n"
          "[language.Text]\nendings = [\".text\"]\ncompiler = \"textc\"\nmakes = \"folder\"\n"
          "command = [\"${output}\", \"${sources}\"]\nstart = [\"read-all\", \"${output}\"]\nentry = \"^begin\"\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("a"), "BEGIN HONEY\nCELADON\n");
  tree.write("b.text", "clear\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says("a"), "BEGIN HONEY\nCLEAR\n");
  // One that is gone leaves nothing behind.
  std::filesystem::remove(tree.path("b.text"));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says("a"), "BEGIN HONEY\n");
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  std::filesystem::rename(prefix, tree.scratch() + "/elsewhere");
  EXPECT_EQ(coctilis::run({{tree.scratch() + "/elsewhere/bin/a"}}).output, "BEGIN HONEY\n");
}

TEST_F(ToldLanguage, WhatIsMissingIsARequirement) {
  write_settings("package = \"glaze-compiler\"\n", "glazec-of-no-yard");
  auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("glazec-of-no-yard"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("glaze-compiler"), std::string::npos) << said.all();
  write_settings("version = \">= 2\"\n");
  said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("version 1.4.2 at"), std::string::npos) << said.all();
  write_settings("options-file = \"glaze.options\"\nlibraries = [\"colours.tab\"]\nlibrary-folders = [\"lib\"]\n");
  said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("glaze.options"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("colours.tab"), std::string::npos) << said.all();
  tree.write("glaze.options", "x\n");
  tree.write("lib/colours.tab", "x\n");
  said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  tree.write("glaze.options", "y\n");
  said = run("build");
  EXPECT_EQ(said.all().find("all 2 steps up to date"), std::string::npos) << said.all();
}

struct Wrong {
  const char* name;
  const char* settings;
  const char* says;
};
void PrintTo(const Wrong& wrong, std::ostream* out) { *out << wrong.name; }

class ToldLanguageIsWrong : public ::testing::TestWithParam<Wrong> {
 protected:
  TreeFolder tree;
};

TEST_P(ToldLanguageIsWrong, IsToldWithItsPlace) {
  tree.write("a.glaze", "x\n");
  tree.write("b.glaze", "x\n");
  tree.write("coctilis.toml", GetParam().settings);
  const auto said = test::coctilis({"build", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_NE(said.all().find(GetParam().says), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("coctilis.toml:"), std::string::npos) << said.all();
}

#define COMPLETE "endings = [\".glaze\"]\ncompiler = \"sh\"\ncommand = [\"${source}\"]\n"
INSTANTIATE_TEST_SUITE_P(
    Settings, ToldLanguageIsWrong,
    ::testing::Values(
        Wrong{"NoEndings", "[language.Glaze]\ncompiler = \"sh\"\ncommand = [\"x\"]\n", "needs the endings"},
        Wrong{"NoCompiler", "[language.Glaze]\nendings = [\".glaze\"]\ncommand = [\"x\"]\n", "needs its compiler"},
        Wrong{"NoCommand", "[language.Glaze]\nendings = [\".glaze\"]\ncompiler = \"sh\"\n",
              "the command that compiles"},
        Wrong{"NoEnding", "[language.Glaze]\nendings = [\"glaze\"]\n", "is no ending of file names"},
        Wrong{"NoPlace", "[language.Glaze]\ncommand = [\"${sauce}\"]\n", "has no place ${sauce}"},
        Wrong{"TwoLists", "[language.Glaze]\ncommand = [\"${include}${options}\"]\n", "several places"},
        Wrong{"ReadsSeveral", "[language.Glaze]\nreads = \"${include}.d\"\n", "stands for several words"},
        Wrong{"LinksBySeveral", "[language.Glaze]\nlink = [[\"${uses}\"]]\n", "stands for several words"},
        Wrong{"StartsBySeveral", "[language.Glaze]\nstart = [\"${sources}\"]\n", "stands for several words"},
        Wrong{"NoKind", "[language.Glaze]\nmakes = \"tiles\"\n", "not 'tiles'"},
        Wrong{"NoPattern", "[language.Glaze]\nentry = \"(\"\n", "entry"},
        Wrong{"NoKey", "[language.Glaze]\nending = [\".x\"]\n", "endings"},
        Wrong{"NoName", "[language.\"a b\"]\nendings = [\".x\"]\n", "cannot be called"},
        Wrong{"LinkOfNoObjects", "[language.Glaze]\n" COMPLETE "makes = \"program\"\nlink = [[\"ld\"]]\n",
              "only objects are linked"},
        Wrong{"FolderWithoutStart", "[language.Glaze]\n" COMPLETE "makes = \"folder\"\n", "what starts a program"},
        Wrong{"TwoOfOneEnding", "[language.Glaze]\n" COMPLETE "[language.Slip]\n" COMPLETE, "are of Glaze already"},
        Wrong{"NothingBegins", "[language.Glaze]\n" COMPLETE "makes = \"program\"\n", "in which of the 2 sources"},
        Wrong{"SeveralLanguages",
              "[language.Glaze]\n" COMPLETE
              "[[target]]\nname = \"x\"\nkind = \"program\"\nsources = [\"a.glaze\", \"b.c\"]\n",
              "make a target of each"},
        Wrong{"UsesNothing",
              "[language.Glaze]\n" COMPLETE
              "[[target]]\nname = \"x\"\nkind = \"program\"\nsources = [\"a.glaze\"]\nuse = [\"y\"]\n",
              "which is no target"},
        Wrong{"LiesOutside",
              "[language.Glaze]\n" COMPLETE
              "[[target]]\nname = \"x\"\nkind = \"program\"\nsources = [\"../a.glaze\"]\n",
              "outside of the tree"}),
    [](const auto& one) { return one.param.name; });

// ---- compilers that nobody wrote a file for -------------------------------------------------------------------------

class ToldAda : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("gnatbind").empty()) GTEST_SKIP() << "there is no compiler of Ada (gnat)";
    tree.write("heat/heat.ads",
               "package Heat is\n   function Temperature (Cone : Integer) return Integer;\nend Heat;\n");
    write_body("1216");
    tree.write("cones.adb",
               "with Ada.Text_IO;\nwith Heat;\nprocedure Cones is\nbegin\n   Ada.Text_IO.Put_Line (\"cone 6:\" & "
               "Integer'Image (Heat.Temperature (6)));\nend Cones;\n");
    tree.write("coctilis.toml", settings);
  }
  void write_body(const std::string& base) const {
    tree.write("heat/heat.adb", "package body Heat is\n   function Temperature (Cone : Integer) return Integer is (" +
                                    base + " + Cone);\nend Heat;\n");
  }
  [[nodiscard]] std::string says() const { return coctilis::run({{tree.label_folder() + "/bin/cones"}}).output; }
  static constexpr const char* settings =
      "[language.Ada]\nendings = [\".adb\"]\nincluded = [\".ads\"]\ncompiler = \"gnatgcc\"\n"
      "command = [\"-c\", \"-I${include}\", \"-o\", \"${output}\", \"${source}\"]\nalso = [\".ali\"]\n"
      "include = [\"heat\"]\nentry = \"(?i)^procedure\\\\s+\\\\w+\\\\s+is\"\n"
      "link = [[\"gnatbind\", \"-aO${object-folder}\", \"${main}.ali\"],\n"
      "[\"gnatlink\", \"${main}.ali\", \"-o\", \"${output}\", \"${uses}\"]]\n";
};

TEST_F(ToldAda, AProgramOfSeveralUnits) {
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "cone 6: 1222\n");
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  // A body is compiled alone; what others see of it makes them new.
  write_body("1217");
  said = run("build", {"-v"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("2 steps"), std::string::npos) << said.all();
  EXPECT_EQ(says(), "cone 6: 1223\n");
  tree.write("heat/heat.ads", "-- As measured.\n" + tree.read("heat/heat.ads"));
  said = run("build");
  EXPECT_NE(said.all().find("3 steps"), std::string::npos) << said.all();
}

TEST_F(ToldAda, ALibraryByItself) {
  tree.write("coctilis.toml",
             std::string(settings) +
                 "[[target]]\nname = \"heat\"\nkind = \"archive\"\nsources = [\"heat/heat.adb\"]\n"
                 "[[target]]\nname = \"cones\"\nkind = \"program\"\nsources = [\"cones.adb\"]\nuse = [\"heat\"]\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "cone 6: 1222\n");
  write_body("1217");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says(), "cone 6: 1223\n");
}

class ToldPascal : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("fpc").empty()) GTEST_SKIP() << "there is no compiler of Pascal (fp-compiler)";
    tree.write("cones.pas", "program Cones;\nuses heat;\nbegin\n  WriteLn('cone 6: ', Temperature(6));\nend.\n");
    tree.write("units/heat.pas",
               "unit heat;\ninterface\nfunction Temperature(cone: integer): integer;\nimplementation\n{$I base.inc}\n"
               "function Temperature(cone: integer): integer;\nbegin\n  Temperature := Base + cone;\nend;\nend.\n");
    tree.write("units/base.inc", "const Base = 1216;\n");
    tree.write("coctilis.toml",
               "[language.Pascal]\nendings = [\".pas\"]\nincluded = [\".inc\"]\ncompiler = \"fpc\"\n"
               "version-words = [\"-iV\"]\ncommand = [\"-v0w\", \"-Fu${include}\", \"-Fi${include}\", "
               "\"-FU${folder}\", \"-o${output}\", \"${options}\", \"${source}\"]\nmakes = \"program\"\n"
               "include = [\"units\"]\nrelease = [\"-O2\"]\nentry = \"(?i)^program\\\\s\"\n");
  }
  [[nodiscard]] std::string says() const { return coctilis::run({{tree.label_folder() + "/bin/cones"}}).output; }
};

TEST_F(ToldPascal, AProgramWithItsUnits) {
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "cone 6: 1222\n");
  EXPECT_NE(run("build").all().find("up to date"), std::string::npos);
  EXPECT_NE(run("locate").all().find("fpc 3"), std::string::npos);
  // One that is older than what was compiled is as new as any.
  tree.write("units/base.inc", "const Base = 1217;\n");
  std::filesystem::last_write_time(tree.path("units/base.inc"),
                                   std::filesystem::last_write_time(tree.path("cones.pas")) - std::chrono::hours(24));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says(), "cone 6: 1223\n");
}

}  // namespace
}  // namespace coctilis::test
