// What is made of results after linking, what is installed beside what the description installs, and archives that lie
// beside a program.
#include <sys/stat.h>

#include "base/archive.h"
#include "support.h"

namespace coctilis::test {
namespace {

class Finished : public DrivenTree {
 protected:
  Finished() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nadd_library(clay SHARED clay.c)\n"
               "add_executable(firecurve firecurve.c)\ntarget_link_libraries(firecurve clay)\n"
               "install(TARGETS firecurve clay)\ninstall(DIRECTORY data/ DESTINATION share/firecurve)\n");
    tree.write("clay.c", "int clay_water(void) { return 18; }\n");
    tree.write("firecurve.c",
               "#include <stdio.h>\nint clay_water(void);\nint main(int argc, char** argv) {\n"
               "  FILE* glazes = argc > 1 ? fopen(argv[1], \"r\") : NULL;\n  char line[80] = \"none\";\n"
               "  if (glazes) fgets(line, sizeof line, glazes);\n"
               "  printf(\"water %d, glaze %s\\n\", clay_water(), line);\n  return 0;\n}\n");
    tree.write("data/cones.txt", "cone 6: 1222\n");
    tree.write("data/more/bisque.txt", "bisque: 1000\n");
  }
  void settings(const std::string& text) const { tree.write("coctilis.toml", text); }
  [[nodiscard]] std::string finished(const std::string& name) const {
    return tree.label_folder() + "/finished/" + name;
  }
  [[nodiscard]] std::string content(const std::string& name) const { return files::read(finished(name)).value_or("-"); }
  [[nodiscard]] std::vector<std::string> names(const std::string& archive) const {
    const auto read = files::names_in_archive(finished(archive), false);
    return read ? *read : std::vector<std::string>{read.problem().what};
  }
};

constexpr const char* all_kinds = R"([[finish]]
strip = "firecurve"
debug = "firecurve.debug"

[[finish]]
copy = ["data", "clay.c"]
to   = "share"

[[finish]]
bind = "data/cones.txt"
into = "firecurve"
to   = "firecurve-with-cones"

[[finish]]
run     = ["sh", "-c", "sort ${data/cones.txt} > ${finished}/sorted.txt"]
outputs = ["sorted.txt"]

[[finish]]
archive = "brickyard.tar.gz"
from    = ["firecurve", "share", "clay", "sorted.txt"]
folder  = "brickyard-2"
)";

TEST_F(Finished, EveryKindMakesWhatItSays) {
  settings(all_kinds);
  const auto said = run("build", {"--variant", "debug"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("strip firecurve: finished/firecurve and 1 other file"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find(", before "), std::string::npos) << said.all();
  EXPECT_LT(std::filesystem::file_size(finished("firecurve")),
            std::filesystem::file_size(tree.label_folder() + "/bin/firecurve"));
  EXPECT_TRUE(files::is_file(finished("firecurve.debug")));
  EXPECT_EQ(content("share/data/cones.txt"), "cone 6: 1222\n");
  EXPECT_EQ(content("share/data/more/bisque.txt"), "bisque: 1000\n");
  EXPECT_TRUE(content("firecurve-with-cones").ends_with("cone 6: 1222\n"));
  EXPECT_TRUE(files::is_program(finished("firecurve-with-cones")));
  EXPECT_EQ(content("sorted.txt"), "cone 6: 1222\n");
  EXPECT_EQ(names("brickyard.tar.gz"),
            (std::vector<std::string>{"brickyard-2/firecurve", "brickyard-2/libclay.so", "brickyard-2/share/clay.c",
                                      "brickyard-2/share/data/cones.txt", "brickyard-2/share/data/more/bisque.txt",
                                      "brickyard-2/sorted.txt"}));
  const auto again = run("build", {"--variant", "debug"});
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(Finished, WhatChangesIsMadeAgainAndNothingElse) {
  settings(all_kinds);
  ASSERT_EQ(run("build").exit, 0);
  const std::string before = content("brickyard.tar.gz");
  tree.write("data/more/bisque.txt", "bisque: 1040\n");
  auto said = run("build");
  EXPECT_NE(said.all().find("2 steps in"), std::string::npos) << said.all();
  EXPECT_EQ(content("share/data/more/bisque.txt"), "bisque: 1040\n");
  const std::string after = content("brickyard.tar.gz");
  EXPECT_NE(before, after);
  // What is taken away goes; back as it was, the archive is the same byte by byte.
  tree.write("data/more/extra.txt", "x\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(content("share/data/more/extra.txt"), "x\n");
  std::filesystem::remove(tree.path("data/more/extra.txt"));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_FALSE(files::exists(finished("share/data/more/extra.txt")));
  EXPECT_EQ(content("brickyard.tar.gz"), after);
  // One that somebody has taken away comes again.
  std::filesystem::remove(finished("firecurve"));
  std::filesystem::remove(finished("share/data/cones.txt"));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(finished("firecurve")));
  EXPECT_EQ(content("share/data/cones.txt"), "cone 6: 1222\n");
}

TEST_F(Finished, WhatIsAskedForNoMoreGoes) {
  settings(all_kinds);
  ASSERT_EQ(run("build").exit, 0);
  settings("[[finish]]\nstrip = \"firecurve\"\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(finished("firecurve")));
  EXPECT_FALSE(files::exists(finished("firecurve.debug")));
  EXPECT_FALSE(files::exists(finished("brickyard.tar.gz")));
  EXPECT_FALSE(files::exists(finished("share/clay.c")));
}

TEST_F(Finished, OneAloneIsBuiltByItsName) {
  settings(all_kinds);
  const auto said = run("build", {"brickyard.tar.gz"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::is_file(finished("brickyard.tar.gz")));
  EXPECT_FALSE(files::exists(finished("firecurve-with-cones")));
}

TEST_F(Finished, ASectionHoldsAPart) {
  settings(
      "[[finish]]\nbind = \"data/cones.txt\"\ninto = \"firecurve\"\nsection = \".cones\"\n"
      "[[finish]]\ncopy = \"clay\"\n"
      "[[smoke]]\nname = \"bound\"\nrun = [\"${finished}/firecurve\"]\nexpect = { output = \"water 18\" }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(content("firecurve").find("cone 6: 1222\n"), std::string::npos);
}

TEST_F(Finished, ResultsOfMakefilesAreNamedByPath) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write(
      "Makefile",
      "all: src/firecurve\nsrc/firecurve: firecurve.c clay.c\n\tmkdir -p src\n\t$(CC) -o $@ firecurve.c clay.c\n");
  settings("[[finish]]\nstrip = \"src/firecurve\"\n[[finish]]\narchive = \"brickyard.zip\"\nfrom = \"firecurve\"\n");
  auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::is_program(finished("firecurve")));
  EXPECT_EQ(names("brickyard.zip"), (std::vector<std::string>{"firecurve"}));
  tree.write("clay.c", "int clay_water(void) { return 21; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(coctilis::run({{finished("firecurve")}}).output, "water 21, glaze none\n");
}

TEST_F(Finished, ResultsOfScriptsAreNamedByPath) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("build.sh", "#!/bin/sh\nset -e\nmkdir -p out\n${CC:-cc} -o out/firecurve firecurve.c clay.c\n");
  std::filesystem::permissions(tree.path("build.sh"), std::filesystem::perms::owner_all);
  settings("[[finish]]\nstrip = \"out/firecurve\"\n");
  auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::is_program(finished("firecurve")));
  tree.write("clay.c", "int clay_water(void) { return 21; }\n");
  said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(coctilis::run({{finished("firecurve")}}).output, "water 21, glaze none\n");
}

TEST_F(Finished, AnArchiveLiesBesideItsProgram) {
  tree.write("vendor/glazes-1/glazes/clear.txt", "clear\n");
  std::string why;
  ASSERT_TRUE(files::pack_reproducibly(tree.path("glazes.tar.gz"), {{tree.path("vendor/glazes-1"), "glazes-1"}}, why));
  settings(
      "[[source]]\nname = \"glazes\"\narchive = \"glazes.tar.gz\"\nbeside = \"firecurve\"\nfolder = \"store\"\n"
      "[[smoke]]\nname = \"glazed\"\nrun = [\"firecurve\", \"store/glazes/clear.txt\"]\nfolder = \"${program}\"\n"
      "expect = { output = \"glaze clear\" }\n");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  const std::string clear = tree.label_folder() + "/work/store/glazes/clear.txt";
  EXPECT_EQ(files::read(clear).value_or("-"), "clear\n");
  std::filesystem::remove(clear);
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(files::read(clear).value_or("-"), "clear\n");
  tree.write("vendor/glazes-1/glazes/clear.txt", "clear and thin\n");
  tree.write("vendor/glazes-1/glazes/celadon.txt", "celadon\n");
  ASSERT_TRUE(files::pack_reproducibly(tree.path("glazes.tar.gz"), {{tree.path("vendor/glazes-1"), "glazes-1"}}, why));
  said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(files::read(clear).value_or("-"), "clear and thin\n");
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/work/store/glazes/celadon.txt"));
}

struct WronglyFinished {
  const char* name;
  const char* text;
  int exit;
  const char* says;
};
class FinishedWrongly : public Finished, public testing::WithParamInterface<WronglyFinished> {};

TEST_P(FinishedWrongly, IsToldWithItsPlace) {
  settings(GetParam().text);
  const auto said = run("build");
  EXPECT_EQ(said.exit, GetParam().exit) << said.all();
  EXPECT_NE(said.all().find(GetParam().says), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("coctilis.toml:"), std::string::npos) << said.all();
}

INSTANTIATE_TEST_SUITE_P(
    Texts, FinishedWrongly,
    testing::Values(
        WronglyFinished{"UnknownFile", "[[finish]]\nstrip = \"kilns\"\n", 2, "'kilns' is no result of the tree"},
        WronglyFinished{"AFolder", "[[finish]]\nstrip = \"data\"\n", 2, "is a folder where a file is meant"},
        WronglyFinished{"MadeTwice",
                        "[[finish]]\nstrip = \"firecurve\"\n[[finish]]\ncopy = \"clay.c\"\n[[finish]]\n"
                        "bind = \"clay.c\"\ninto = \"firecurve\"\n",
                        2, "is made twice"},
        WronglyFinished{
            "Circle",
            "[[finish]]\narchive = \"a.zip\"\nfrom = \"b.zip\"\n[[finish]]\narchive = \"b.zip\"\nfrom = \"a.zip\"\n", 2,
            "nothing that was finished before"},
        WronglyFinished{"NoProgram", "[[finish]]\nrun = [\"no-such-program\"]\noutputs = \"x\"\n", 3, "none on PATH"},
        WronglyFinished{"NameOfATarget", "[[finish]]\nname = \"clay\"\nstrip = \"firecurve\"\n", 2,
                        "there is a target 'clay' already"},
        WronglyFinished{"NoSuchArchive", "[[source]]\narchive = \"x.zip\"\nbeside = \"firecurve\"\n", 3,
                        "is not there"},
        WronglyFinished{"NoSuchNeighbour", "[[source]]\narchive = \"clay.zip\"\nbeside = \"kiln\"\n", 2,
                        "there is no program 'kiln'"},
        WronglyFinished{"MakesNothing", "[[finish]]\nrun = [\"true\"]\noutputs = \"x\"\n", 5, "x is not there"},
        WronglyFinished{"HoldsTheTree", "[[finish]]\narchive = \"a.tar\"\nfrom = [\"data\", \"data/../data\"]\n", 2,
                        "would be called 'data'"}),
    [](const auto& one) { return one.param.name; });

TEST_F(Finished, AnArchiveThatIsNoneOrLeadsOutIsRefused) {
  tree.write("glazes.zip", "this is no archive");
  settings("[[source]]\narchive = \"glazes.zip\"\nbeside = \"firecurve\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_NE(said.all().find("cannot be read"), std::string::npos) << said.all();
}

TEST_F(Finished, AnArchiveDoesNotTakeTheProgramsPlace) {
  tree.write("vendor/firecurve", "not a program\n");
  std::string why;
  ASSERT_TRUE(files::pack_reproducibly(tree.path("glazes.zip"), {{tree.path("vendor/firecurve"), "firecurve"}}, why));
  settings("[[source]]\narchive = \"glazes.zip\"\nbeside = \"firecurve\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_NE(said.all().find("which the tree makes itself"), std::string::npos) << said.all();
}

// ---- what is installed besides --------------------------------------------------------------------------------------

TEST_F(Finished, ADesktopEntryIsInstalled) {
  tree.write("data/firecurve.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>\n");
  settings(
      "[[desktop]]\nprogram = \"firecurve\"\ntitle = \"Firing curves\"\nicon = \"data/firecurve.svg\"\n"
      "arguments = [\"${prefix}/share/firecurve/cones.txt\", \"100 % clay\"]\nfolder = \"share/firecurve\"\n"
      "categories = [\"Science\", \"Math\"]\n");
  const std::string prefix = tree.scratch() + "/a prefix";
  const auto said = run("stage", {"--prefix", prefix});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(files::read(prefix + "/share/applications/firecurve.desktop").value_or("-"),
            "[Desktop Entry]\nType=Application\nVersion=1.4\nName=Firing curves\nExec=\"" + prefix +
                "/bin/firecurve\" \"" + prefix + "/share/firecurve/cones.txt\" \"100 %% clay\"\nIcon=" + prefix +
                "/share/icons/firecurve.svg\nPath=" + prefix +
                "/share/firecurve\nTerminal=false\nCategories=Science;Math;\n");
  if (!find_program("desktop-file-validate").empty()) {
    const auto validated = coctilis::run({{"desktop-file-validate", prefix + "/share/applications/firecurve.desktop"}});
    EXPECT_EQ(validated.output, "");
  }
  const auto again = run("stage", {"--prefix", prefix});
  EXPECT_NE(again.all().find("all there already"), std::string::npos) << again.all();
}

TEST_F(Finished, ADesktopEntryNeedsWhatItNames) {
  for (const auto& [text, says] : std::vector<std::pair<const char*, const char*>>{
           {"program = \"kiln\"\n", "no program 'kiln' was installed"},
           {"program = \"firecurve\"\nfolder = \"share/kiln\"\n", "was not installed"},
           {"program = \"firecurve\"\nicon = \"data/kiln.png\"\n", "is not there"}}) {
    settings(std::string("[[desktop]]\n") + text);
    const auto said = run("stage", {"--prefix", tree.scratch() + "/prefix"});
    EXPECT_EQ(said.exit, 2) << said.all();
    EXPECT_NE(said.all().find(says), std::string::npos) << said.all();
  }
}

TEST_F(Finished, InstalledProgramsStartFromAnyFolder) {
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  EXPECT_EQ(coctilis::run({{prefix + "/bin/firecurve"}}).output, "water 18, glaze none\n");
}

TEST_F(Finished, ThoseOfMakefilesGetAStarter) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile",
             "PREFIX = /usr/local\nall: firecurve\nlibclay.so: clay.c\n\t$(CC) -shared -fPIC -o $@ clay.c\n"
             "firecurve: firecurve.c libclay.so\n\t$(CC) -o $@ firecurve.c -L. -lclay\n"
             "install: all\n\tmkdir -p $(PREFIX)/bin $(PREFIX)/lib\n\tcp firecurve $(PREFIX)/bin\n"
             "\tcp libclay.so $(PREFIX)/lib\n");
  const std::string prefix = tree.scratch() + "/prefix";
  for (int i = 0; i < 2; ++i) {
    const auto said = run("stage", {"--prefix", prefix});
    ASSERT_EQ(said.exit, 0) << said.all();
    EXPECT_NE(said.all().find("bin/firecurve is a script that starts the program in libexec"), std::string::npos)
        << said.all();
    EXPECT_EQ(coctilis::run({{prefix + "/bin/firecurve"}}).output, "water 18, glaze none\n");
  }
  // The prefix may be moved.
  std::filesystem::rename(prefix, tree.scratch() + "/elsewhere");
  EXPECT_EQ(coctilis::run({{tree.scratch() + "/elsewhere/bin/firecurve"}}).output, "water 18, glaze none\n");
}

TEST_F(Finished, OfAWholeWithMembersNothingIsFinished) {
  tree.write("glaze/CMakeLists.txt", tree.read("CMakeLists.txt"));
  settings("[tree]\ncomponents = [\"glaze\"]\n[[finish]]\nstrip = \"firecurve\"\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 2) << said.all();
  EXPECT_NE(said.all().find("a [[finish]] is of one member"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
