// Trees that say nothing of how they are built: what their sources come to is found out, said with reasons, and can be
// written down.
#include "support.h"

namespace coctilis::test {
namespace {

class SourcesTree : public DrivenTree {
 protected:
  void write_kiln() const {
    tree.write("include/cone.h", "double cone(double heat);\n");
    tree.write("src/cone.c",
               "#include \"cone.h\"\n#include <math.h>\ndouble cone(double heat) { return sqrt(heat); }\n");
    tree.write("src/fire.c",
               "#include <stdio.h>\n#include <zlib.h>\n#include \"cone.h\"\n"
               "int main(void) { printf(\"%.1f %d\\n\", cone(6.25), crc32(0, Z_NULL, 0) == 0); return 0; }\n");
    tree.write("tests/cone_test.c", "#include \"cone.h\"\nint main(void) { return cone(4) == 2 ? 0 : 1; }\n");
  }
};

TEST_F(SourcesTree, ComesUpWithTheLibrariesOfTheSystemThatItNeeds) {
  write_kiln();
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows sources"), std::string::npos) << said.all();
  EXPECT_EQ(said_by("fire"), "2.5 1\n");
  const auto again = run("build");
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(SourcesTree, ThePlanTellsWhatMadeATargetAndWhatIsLeftOut) {
  write_kiln();
  tree.write("src/win32/fire_win.c", "int fire_win(void) { return 0; }\n");
  tree.write("src/stray.c", "int stray(void) { return 0; }\n");
  const auto said = run("plan");
  ASSERT_EQ(said.exit, 0) << said.all();
  for (const char* words :
       {"because it has an entry point", "because it lies in a folder of tests", "because several programs need it",
        "src/win32/fire_win.c: it lies in a folder for other systems", "src/stray.c: nothing uses what it defines"})
    EXPECT_NE(said.all().find(words), std::string::npos) << words << "\n" << said.all();
}

TEST_F(SourcesTree, TestsAreBuiltOnDemand) {
  write_kiln();
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_FALSE(files::exists(tree.label_folder() + "/bin/cone_test"));
  ASSERT_EQ(run("build", {"cone_test"}).exit, 0);
  EXPECT_EQ(said_by("cone_test"), "");
}

TEST_F(SourcesTree, WhatWasFoundCanBeWrittenDownAndComesToTheSame) {
  write_kiln();
  const auto before = run("plan", {"--json"}).json();
  const auto wrote = run("plan", {"--write"});
  ASSERT_EQ(wrote.exit, 0) << wrote.all();
  const std::string text = tree.read("coctilis.toml");
  EXPECT_NE(text.find("[[target]]\nname = \"fire\"\nkind = \"program\"\n"), std::string::npos) << text;
  EXPECT_NE(text.find("libraries = [\"m\"]"), std::string::npos) << text;
  const auto after = run("plan", {"--json"}).json();
  auto without = [](nlohmann::json targets) {
    for (auto& target : targets) {
      target.erase("why");
      target.erase("place");
    }
    return targets;
  };
  EXPECT_EQ(without(before["targets"]), without(after["targets"]));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("fire"), "2.5 1\n");
  const auto twice = run("plan", {"--write"});
  EXPECT_EQ(twice.exit, 2) << twice.all();
  EXPECT_EQ(tree.read("coctilis.toml"), text);
}

TEST_F(SourcesTree, WritingKeepsWhatTheFileSays) {
  write_kiln();
  tree.write("coctilis.toml", "[tree]\nleave-out = [\"src/fire.c\"]\n");
  ASSERT_EQ(run("plan", {"--write"}).exit, 0);
  EXPECT_TRUE(tree.read("coctilis.toml").starts_with("[tree]\nleave-out = [\"src/fire.c\"]\n\n# What the sources"));
  const auto said = run("plan", {"--json"});
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(SourcesTree, AnEditIsBuiltAndAMistakeIsTheStepsToTell) {
  write_kiln();
  ASSERT_EQ(run("build").exit, 0);
  tree.write("src/cone.c", "#include \"cone.h\"\ndouble cone(double heat) { return heat; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("fire"), "6.2 1\n");
  // One that compiled before is not left out when it does not compile any more.
  tree.write("src/cone.c", "#include \"cone.h\"\ndouble cone(double heat) { return heat }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("src/cone.c"), std::string::npos) << said.all();
}

TEST_F(SourcesTree, ANewSourceTakesPart) {
  write_kiln();
  ASSERT_EQ(run("build").exit, 0);
  tree.write("src/press.c", "#include <stdio.h>\nint main(void) { puts(\"press\"); return 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("press"), "press\n");
}

TEST_F(SourcesTree, FortranModulesAndCPlusPlus) {
  tree.write("clay.f90",
             "module clay\ncontains\nsubroutine fire()\nprint '(a)', 'fired'\nend subroutine\nend module\n");
  tree.write("kiln.f90", "program kiln\nuse clay\ncall fire()\nend program\n");
  tree.write("press.cpp", "#include <iostream>\nvoid press();\nint main() { press(); }\n");
  tree.write("pressing.cpp", "#include <iostream>\nvoid press() { std::cout << \"pressed\\n\"; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "fired\n");
  EXPECT_EQ(said_by("press"), "pressed\n");
}

TEST_F(SourcesTree, FortranOfAllForms) {
  // A module of constants alone, a submodule, both forms under wrong names, directives where no name tells of them.
  tree.write("numbers.f90", "module numbers\ninteger, parameter :: peak = 1222\nend module\n");
  tree.write("heat.f90",
             "module heat\ninterface\nmodule integer function warm()\nend function\nend interface\nend module\n");
  tree.write("heat_warm.f90",
             "submodule (heat) heat_warm\ncontains\nmodule procedure warm\nuse numbers\nwarm = peak\n"
             "end procedure\nend submodule\n");
  tree.write("old.f90",
             "C     OLD LINES\n      SUBROUTINE OLD(N)\n      INTEGER N\n      N = N +\n     1    1\n      END\n");
  tree.write("new.f", "subroutine fresh(n)\ninteger :: n\nn = n &\n  + 1\nend subroutine\n");
  tree.write("kiln.f90",
             "program kiln\nuse heat\ninteger :: n\n#ifdef NO_SUCH\nuse nowhere\n#endif\nn = warm()\ncall old(n)\n"
             "call fresh(n)\nprint '(i0)', n\nend program\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "1224\n");
  // A body that changes is compiled alone.
  tree.write("heat_warm.f90", tree.read("heat_warm.f90") + "! changed\n");
  EXPECT_EQ(run("build").exit, 0);
}

TEST_F(SourcesTree, AModuleThatNobodyHasIsMissing) {
  tree.write("clay.f90", "module clay\nuse netcdf_of_nobody\nend module\n");
  tree.write("kiln.f90", "program kiln\nuse clay\nend program\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("netcdf_of_nobody.mod"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("clay.f90"), std::string::npos) << said.all();
}

TEST_F(SourcesTree, FoldersThatExcludeEachOtherAreAskedFor) {
  tree.write("kiln.f90", "program kiln\nuse driver\ncall drive()\nend program\n");
  for (const char* name : {"fast", "slow"})
    tree.write(std::string("drivers/") + name + "/driver.f90",
               std::string("module driver\ncontains\nsubroutine drive()\nprint '(a)', '") + name +
                   "'\nend subroutine\nend module\n");
  const auto asked = run("build");
  EXPECT_EQ(asked.exit, 4) << asked.all();
  EXPECT_NE(asked.all().find("choose = [\"drivers/fast\"]"), std::string::npos) << asked.all();
  tree.write("coctilis.toml", "[tree]\nchoose = [\"drivers/slow\"]\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "slow\n");
  tree.write("coctilis.toml", "[tree]\nchoose = [\"drivers/fast\"]\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "fast\n");
}

TEST_F(SourcesTree, HeadersAreMadeOfTemplatesAndOfWhatIsAskedFor) {
  tree.write("src/config.h.in", "#undef HAVE_UNISTD_H\n#undef HAVE_NO_SUCH_THING_H\n");
  tree.write("src/main.c",
             "#include <config.h>\n#include <stdio.h>\n"
             "#if !defined(HAVE_UNISTD_H) || defined(HAVE_NO_SUCH_THING_H)\n#error wrong\n#endif\n"
             "int main(void) { puts(\"made\"); return 0; }\n");
  tree.write("other/press.c",
             "#ifdef HAVE_CONFIG_H\n#include \"press-config.h\"\n#endif\n#include <stdio.h>\n"
             "int main(void) {\n#ifdef HAVE_STRDUP\nputs(\"asked\");\n#endif\nreturn 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("press"), "asked\n");
}

TEST_F(SourcesTree, AProgramOfTheTreeWritesWhatOthersInclude) {
  tree.write("tables/mkcones.c",
             "#include <stdio.h>\n#include \"step.h\"\nint main(void) { printf(\"static const int cones[] = {%d, "
             "%d};\\n\", STEP, 2 * STEP); "
             "return 0; }\n");
  tree.write("tables/step.h", "#define STEP 61\n");
  tree.write("src/kiln.c",
             "#include <stdio.h>\n#include \"cones.h\"\nint main(void) { printf(\"%d\\n\", cones[1]); return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "122\n");
  tree.write("tables/step.h", "#define STEP 62\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "124\n");
  const auto plan = run("plan");
  EXPECT_NE(plan.all().find("cones.h is made by tables/mkcones.c"), std::string::npos) << plan.all();
}

TEST_F(SourcesTree, PartsOfOtherSourcesAreNone) {
  tree.write("main.c",
             "#include <stdio.h>\nstatic const char* word(void);\n#include \"word.c\"\n"
             "int main(void) { puts(word()); return 0; }\n");
  tree.write("word.c", "static const char* word(void) { return \"part\"; }\n");
  const auto said = run("plan");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("word.c: it is a part of main.c, which includes it"), std::string::npos) << said.all();
}

// ---- wrong input ---------------------------------------------------------------------------------------------------
TEST_F(SourcesTree, AHeaderThatIsNotInstalledIsNamedWithItsPackage) {
  tree.write("main.c", "#include <no_such_clay.h>\nint main(void) { return 0; }\n");
  const auto unknown = run("build");
  EXPECT_EQ(unknown.exit, 5) << unknown.all();
  EXPECT_NE(unknown.all().find("no_such_clay.h"), std::string::npos) << unknown.all();
}

TEST_F(SourcesTree, ASymbolThatNothingDefinesEndsWithItsPlace) {
  tree.write("main.c", "void glaze_nothing_has(void);\nint main(void) { glaze_nothing_has(); return 0; }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("main.c needs glaze_nothing_has"), std::string::npos) << said.all();
}

TEST_F(SourcesTree, ATreeOfWhichMostDoesNotCompileIsNoneThatIsUnderstood) {
  tree.write("clay.c", "int clay(void) { return 1; }\n");
  for (const char* name : {"kiln.c", "press.c", "glaze.c"}) tree.write(name, "int broken(void) { return }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("3 sources of 4 do not compile"), std::string::npos) << said.all();
}

TEST_F(SourcesTree, LibrariesThatNeedEachOtherAreOne) {
  tree.write("libclay/clay.c",
             "int glaze(int);\nint clay(int x) { return x ? glaze(x - 1) : 1; }\nint two(void) { return 2; }\n");
  tree.write("libglaze/glaze.c",
             "int clay(int);\nint two(void);\nint glaze(int x) { return x ? clay(x - 1) : two(); }\n");
  tree.write("main.c",
             "#include <stdio.h>\nint clay(int);\nint main(void) { printf(\"%d\\n\", clay(3)); return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("the libraries clay and glaze need each other: they are one"), std::string::npos)
      << said.all();
}

TEST_F(SourcesTree, ALibraryMayLeaveSomethingToItsPrograms) {
  tree.write("lib/fire.c", "void warn(void);\nint fire(void) { warn(); return 3; }\n");
  tree.write("main.c", "int fire(void);\nvoid warn(void) {}\nint main(void) { return fire() - 3; }\n");
  tree.write("press.c", "int fire(void);\nvoid warn(void) {}\nint main(void) { return fire() - 3; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(SourcesTree, AProgramOfTheTreeThatCannotBeLinkedEndsTheRun) {
  write_kiln();
  ASSERT_EQ(run("build").exit, 0);
  tree.write("src/press.c", "void glaze_nothing_has(void);\nint main(void) { glaze_nothing_has(); return 0; }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("src/press.c"), std::string::npos) << said.all();
  // One of a test is left out and named.
  std::filesystem::rename(tree.path("src/press.c"), tree.path("tests/press.c"));
  const auto without = run("plan");
  EXPECT_EQ(without.exit, 0) << without.all();
  EXPECT_NE(without.all().find("tests/press.c: it needs glaze_nothing_has"), std::string::npos) << without.all();
}

TEST_F(SourcesTree, AProgramOfTheTreeThatDoesNotCompileIsNotLeftOut) {
  write_kiln();
  tree.write("src/press.c", "int main(void) { return }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("src/press.c"), std::string::npos) << said.all();
}

TEST_F(SourcesTree, WhatDoesNotCompileIsLookedAtAgain) {
  write_kiln();
  tree.write("src/stray.c", "#include <heat.h>\nint stray(void) { return HEAT; }\n");
  files::write(tree.scratch() + "/prefix/include/heat.h", "#error cold\n");
  const auto plan = [&] { return run("plan", {"--with", tree.scratch() + "/prefix"}); };
  EXPECT_NE(plan().all().find("src/stray.c: it does not compile"), std::string::npos);
  // The tree is as it was; what is around it is not.
  files::write(tree.scratch() + "/prefix/include/heat.h", "#define HEAT 1\n");
  EXPECT_NE(plan().all().find("src/stray.c: nothing uses what it defines"), std::string::npos);
}

TEST_F(SourcesTree, UnrelatedProgramsInOneFolderAreTwo) {
  tree.write("kiln.c", "int heat(void) { return 0; }\nint main(void) { return heat(); }\n");
  tree.write("press.c", "int heat(void) { return 0; }\nint main(void) { return heat(); }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "");
  EXPECT_EQ(said_by("press"), "");
}

TEST_F(SourcesTree, WrongTargetsAreToldWithTheirPlace) {
  write_kiln();
  const auto with = [&](const std::string& text) {
    tree.write("coctilis.toml", text);
    return run("plan");
  };
  struct Wrong {
    const char* text;
    const char* says;
  };
  for (const auto& [text, says] :
       {Wrong{"[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"src/none.c\"]\n", "which is not there"},
        Wrong{"[[target]]\nname = \"kiln\"\nkind = \"oven\"\nsources = [\"src/fire.c\"]\n", "kind"},
        Wrong{"[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"include/cone.h\"]\n",
              "no compiler here takes"},
        Wrong{"[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"../x.c\"]\n", "outside of the tree"},
        Wrong{"[[target]]\nname = \"kiln\"\nkind = \"program\"\nuse = [\"clay\"]\nsources = [\"src/fire.c\"]\n",
              "no target"},
        Wrong{"[[target]]\nname = \"a\"\nkind = \"archive\"\nuse = [\"b\"]\nsources = [\"src/cone.c\"]\n"
              "[[target]]\nname = \"b\"\nkind = \"archive\"\nuse = [\"a\"]\nsources = [\"src/fire.c\"]\n",
              "uses itself"}}) {
    const auto said = with(text);
    EXPECT_EQ(said.exit, 2) << text << said.all();
    EXPECT_NE(said.all().find(says), std::string::npos) << text << said.all();
    EXPECT_NE(said.all().find("coctilis.toml:"), std::string::npos) << text << said.all();
  }
}

TEST_F(SourcesTree, WritingGoesThroughNoLink) {
  write_kiln();
  const std::string outside = tree.scratch() + "/outside.toml";
  files::write(outside, "[tree]\n");
  std::filesystem::create_symlink(outside, tree.path("coctilis.toml"));
  const auto said = run("plan", {"--write"});
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_EQ(files::read(outside), "[tree]\n");
}

TEST_F(SourcesTree, ListsBesideTheSourcesNameWhatIsMadeOfThem) {
  // What a configure script is made from, without the script.
  tree.write("configure.ac",
             "AC_INIT([yard], [3.1])\nAC_DEFINE_UNQUOTED(CONES, 12, [how many])\nAC_CONFIG_HEADERS([config.h])\n"
             "AC_OUTPUT\n");
  tree.write("Makefile.am",
             "bin_PROGRAMS = fire-curve\nfire_curve_SOURCES = main.c\nfire_curve_LDADD = libpit.la\n"
             "lib_LTLIBRARIES = libpit.la\nlibpit_la_SOURCES = clay.c\n"
             "AM_CPPFLAGS = -DSHARE=\\\"$(datadir)\\\"\n");
  tree.write("clay.c", "const char* clay(void) { return SHARE; }\n");
  tree.write("main.c",
             "#include <stdio.h>\n#include \"config.h\"\nconst char* clay(void);\n"
             "#ifdef HAVE_UNISTD_H\nint has = 1;\n#endif\n"
             "int main(void) { printf(\"%s %d\\n\", clay(), CONES); return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("fire-curve"), "/usr/local/share 12\n");
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libpit.a")) << said.all();
  const auto plan = run("plan");
  EXPECT_NE(plan.all().find("because Makefile.am:1 lists its sources"), std::string::npos) << plan.all();
}

}  // namespace
}  // namespace coctilis::test
