// Trees described by makefiles and configure scripts, from end to end.
#include <sys/stat.h>
#include <unistd.h>

#include <set>

#include "base/sandbox.h"
#include "base/text.h"
#include "describe/configure/reader.h"
#include "support.h"

namespace coctilis::test {
namespace {

class MakefileTree : public DrivenTree {};

// A library and a program in two folders, each with a makefile of its own; no makefile knows of headers.
class TwoFolders : public MakefileTree {
 protected:
  void SetUp() override {
    tree.write("Makefile",
               "SUBDIRS = clay fire\nall:\n\tfor d in $(SUBDIRS); do $(MAKE) -C $$d all || exit 1; done\n"
               "check: all\n\t./fire/fire | grep 'peak 1222'\n.PHONY: all check\n");
    tree.write("clay/Makefile", "all: libclay.a\nlibclay.a: cone.o body.o\n\t$(AR) rc $@ $^\n");
    tree.write("clay/cone.c", "#include \"cone.h\"\nint peak(void) { return PEAK; }\n");
    tree.write("clay/body.c", "int body(void) { return 1; }\n");
    tree.write("clay/cone.h", "#define PEAK 1222\n");
    tree.write("fire/Makefile", "all: fire\nfire: main.o ../clay/libclay.a\n\t$(CC) -o $@ $^\n");
    tree.write("fire/main.c",
               "#include <stdio.h>\nint peak(void);\nint main(void) { printf(\"peak %d\\n\", peak()); return 0; }\n");
  }
};

TEST_F(TwoFolders, InnerMakesAreAnswered) {
  const auto said = run("bringup", {"--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  EXPECT_EQ(said_by("fire"), "peak 1222\n");
  EXPECT_EQ(tree.ran(),
            (std::set<std::string>{"all", "clay/cone.c", "clay/body.c", "clay/libclay.a", "fire/main.c", "fire/fire"}));
  const auto record = said.json();
  std::set<std::string> targets;
  for (const auto& target : record["targets"]) targets.insert(target["name"].get<std::string>());
  EXPECT_EQ(targets, (std::set<std::string>{"fire", "libclay.a"}));
  bool checked = false;
  for (const auto& check : record["checks"]) {
    EXPECT_EQ(check["verdict"], "passed") << check.dump(1);
    checked = checked || check["name"] == "check";
  }
  EXPECT_TRUE(checked);
  // The compile database knows the inner compilations.
  const auto database =
      nlohmann::json::parse(files::read(tree.label_folder() + "/compile_commands.json").value_or("[]"));
  EXPECT_EQ(database.size(), 3U);
  // The tree itself stays as it was.
  EXPECT_FALSE(files::is_file(tree.path("clay/libclay.a")));
}

TEST_F(TwoFolders, ExactlyWhatIsOutOfDateRunsAgain) {
  ASSERT_EQ(run("build").exit, 0);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  // A header that no makefile names.
  tree.write("clay/cone.h", "#define PEAK 1100\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"all", "clay/cone.c", "clay/libclay.a", "fire/fire"}));
  EXPECT_EQ(said_by("fire"), "peak 1100\n");
  // Only touched.
  tree.write("clay/cone.h", "#define PEAK 1100\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
}

TEST_F(TwoFolders, TheFirstErrorIsThatOfTheCompiler) {
  tree.write("clay/body.c", "int body(void) { return cracked; }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5);
  EXPECT_NE(said.all().find("compile clay/body.c failed"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("undeclared"), std::string::npos) << said.all();
}

TEST_F(MakefileTree, PlainTree) {
  tree.write("Makefile",
             "CFLAGS ?= -O1\nkiln: kiln.o log.o\n\t$(CC) $(LDFLAGS) -o $@ $^\nkiln.o log.o: kiln.h\n"
             "version.txt: ; echo 2 > $@\nclean:\n\trm -f *.o kiln\n");
  tree.write("kiln.c", "#include \"kiln.h\"\nint main(void) { return heat(); }\n");
  tree.write("log.c", "#include \"kiln.h\"\nint heat(void) { return 0; }\n");
  tree.write("kiln.h", "int heat(void);\n");
  const auto plan = run("plan", {"--json"}).json();
  EXPECT_EQ(plan["targets"][0]["name"], "kiln");
  EXPECT_EQ(plan["targets"][0]["compile_options"][0], "-O1");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"kiln.c", "log.c", "kiln"}));
  // An option from outside makes everything anew; a target on demand can be named.
  ASSERT_EQ(run("build", {"--set", "CFLAGS=-O2"}).exit, 0);
  EXPECT_TRUE(tree.ran().contains("kiln.c"));
  EXPECT_EQ(coctilis({"build", tree.path(), "version.txt", "--kiln", tree.kiln()}).exit, 0);
  EXPECT_EQ(files::read(tree.label_folder() + "/work/version.txt"), "2\n");
  const auto why = coctilis({"why", "log.c", tree.path(), "--kiln", tree.kiln()}).all();
  EXPECT_NE(why.find("compile log.c"), std::string::npos) << why;
}

TEST_F(MakefileTree, ARecipeMayChangeWhatTheNextOneSees) {
  tree.write("Makefile",
             "SYSTEM = yard\nNAMES = clay.c slip.c\n.PHONY: build flags_yard\n"
             "build: flags_yard\n\techo \"$(OBJECTS) $(PROGRAM)\" >told\n"
             "flags_yard:\n\t$(eval OBJECTS := $(NAMES:.c=.o))\n\t$(eval PROGRAM := kiln)\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(files::read(tree.label_folder() + "/work/told"), "clay.o slip.o kiln\n");
}

// What differs may be the environment alone.
TEST_F(MakefileTree, AMakeMayStartItselfForTheSame) {
  tree.write("Makefile",
             "ifdef INNER\nall: told\ntold:\n\techo inner >told\nelse\nall:\n\tINNER=1 $(MAKE) all\nendif\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(files::read(tree.label_folder() + "/work/told"), "inner\n");
}

TEST_F(MakefileTree, AMakeThatStartsItselfForEverIsEnded) {
  tree.write("Makefile", "all: north\nnorth:\n\t$(MAKE) south\nsouth:\n\t$(MAKE) north\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("start each other without end"), std::string::npos) << said.all();
}

// Of a folder that is made, what its step has put in it counts, and what others put there does not.
TEST_F(MakefileTree, WhatAStepHasPutIntoItsFolderCounts) {
  tree.write("Makefile",
             "all: data/told kiln\ndata/told: | data\n\techo x >data/told\n"
             "data:\n\tmkdir -p data; echo one >data/one; echo two >data/two\nkiln:\n\tmkdir kiln\n");
  ASSERT_EQ(run("build").exit, 0);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{}));
  std::filesystem::remove(tree.label_folder() + "/work/data/one");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"data"}));
  EXPECT_EQ(files::read(tree.label_folder() + "/work/data/one"), "one\n");
}

// One of several makes has made the folder; the others find it there.
TEST_F(MakefileTree, AFolderThatSeveralMakesMake) {
  tree.write("Makefile", "all: out\n\t$(MAKE) -C src\nout:\n\tmkdir out\n");
  tree.write("src/Makefile", "all: ../out\n\techo x >../out/brick\n../out:\n\tmkdir ../out\n");
  for (int i = 0; i < 3; ++i) {
    const auto said = run("build");
    ASSERT_EQ(said.exit, 0) << i << said.all();
  }
  EXPECT_EQ(files::read(tree.label_folder() + "/work/out/brick"), "x\n");
}

TEST_F(MakefileTree, MembersOfArchives) {
  tree.write("Makefile",
             ".POSIX:\nall: fire\nfire: main.o libclay.a\n\t$(CC) -o $@ main.o libclay.a\n"
             "libclay.a: libclay.a(cone.o) libclay.a(body.o)\n");
  tree.write("cone.c", "int cone(void) { return 6; }\n");
  tree.write("body.c", "int body(void) { return 7; }\n");
  tree.write("main.c",
             "#include <stdio.h>\nint cone(void);\nint body(void);\n"
             "int main(void) { printf(\"%d\\n\", cone() * body()); return 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("fire"), "42\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  tree.write("cone.c", "int cone(void) { return 5; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"libclay.a", "fire"}));
  EXPECT_EQ(said_by("fire"), "35\n");
}

TEST_F(MakefileTree, DocumentsWhoseToolIsNotHereAreLeftOut) {
  tree.write("Makefile",
             "all: kiln kiln.1 sub\nkiln: kiln.c\n\t$(CC) -o $@ $<\nkiln.1: kiln.txt\n\tbrickpress $< > $@\n"
             "sub:\n\t$(MAKE) -C doc\n.PHONY: all sub\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  tree.write("kiln.txt", "The kiln.\n");
  tree.write("doc/Makefile", "all: kiln.html\nkiln.html: ../kiln.txt\n\tbrickpress $< -o $@\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("2 documents left out"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("'brickpress', which makes them, is not here"), std::string::npos) << said.all();
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/kiln"));
  EXPECT_FALSE(files::is_file(tree.label_folder() + "/work/kiln.1"));
  // Asked for by name, it fails.
  EXPECT_EQ(coctilis({"build", tree.path(), "kiln.1", "--kiln", tree.kiln()}).exit, 5);
  // A program that is not made for the same reason is no document.
  tree.write("Makefile", "kiln: kiln.c\n\tbrickpress $< > $@\n");
  EXPECT_EQ(run("build").exit, 5);
}

TEST_F(MakefileTree, MakefilesOfOtherNames) {
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  tree.write("Makefile.unix", "kiln: kiln.c\n\t$(CC) -o $@ $<\n");
  tree.write("configure.ac", "AC_INIT\n");
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/kiln"));
  // Its own targets are made by it, too, whatever lies beside it.
  tree.write("coctilis.toml", "[tree]\ndescription = \"Makefile.unix\"\n");
  tree.write("Makefile.unix",
             "prefix = /usr/local\nkiln: kiln.c\n\t$(CC) -o $@ $<\ncheck: kiln\n\t./kiln\ninstall: kiln\n"
             "\tmkdir -p $(prefix)/bin; cp kiln $(prefix)/bin\n");
  tree.write("Makefile", "kiln check install:\n\tfalse\n");
  auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("1 declared test"), std::string::npos) << said.all();
  said = run("stage", {"--prefix", tree.scratch() + "/prefix"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::is_file(tree.scratch() + "/prefix/bin/kiln"));
  tree.write("make/bricks.mk", "all: brick\nbrick:\n\techo clay > brick\n");
  tree.write("coctilis.toml", "[tree]\ndescription = \"make/bricks.mk\"\n");
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/work/make/brick"));
}

TEST_F(MakefileTree, LibrariesOfLinkCommandsAreWants) {
  tree.write("Makefile",
             "all: fire glow\nfire: fire.o\n\t$(CC) -o $@ $< -lz -lm -lkilnlink\n"
             "glow: glow.o libglaze.a\n\t$(CC) -o $@ glow.o -L. -lglaze\nlibglaze.a: glaze.o\n\t$(AR) rc $@ $^\n");
  for (const char* name : {"fire.c", "glow.c"}) tree.write(name, "int main(void) { return 0; }\n");
  tree.write("glaze.c", "int glaze;\n");
  const auto said = run("build", {"--json"});
  EXPECT_EQ(said.exit, 3) << said.all();
  std::map<std::string, bool> found;
  const auto record = said.json();
  for (const auto& finding : record["requirements"]) {
    if (finding["kind"] == "library") found[finding["name"].get<std::string>()] = finding["found"].get<bool>();
  }
  EXPECT_EQ(found, (std::map<std::string, bool>{{"z", true}, {"kilnlink", false}}));
}

TEST_F(MakefileTree, ProgramsFindTheTreesOwnLibrariesBeforeTheyAreInstalled) {
  // As generated makefiles do it: the program proper lies in a folder of its own, beside a script that starts it.
  tree.write("Makefile",
             "all: fire libclay.la\nlibclay.so.1: clay.c\n\t$(CC) -shared -fPIC -Wl,-soname,libclay.so.1 -o $@ $<\n"
             "fire: fire.c libclay.so.1\n\tmkdir -p .libs\n\t$(CC) -o .libs/fire fire.c ./libclay.so.1\n"
             "\techo 'exec ./.libs/fire' > fire && chmod +x fire # $(CC) -o fire\n"
             "libclay.la:\n\tlibtool $(CC) -o libclay.la clay.o\n");
  tree.write("libtool", "");
  tree.write("clay.c", "int clay(void) { return 0; }\n");
  tree.write("fire.c", "int clay(void);\nint main(void) { return clay(); }\n");
  tree.write("bin/libtool", "#!/bin/sh\necho notes > libclay.la\n");
  std::filesystem::permissions(tree.path("bin/libtool"), std::filesystem::perms::all);
  tree.write("Makefile", files::read(tree.path("Makefile")).value_or("") + "export PATH := $(CURDIR)/bin:$(PATH)\n");
  const auto said = run("bringup", {"--json"});
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto record = said.json();
  std::set<std::string> names;
  for (const auto& target : record["targets"]) names.insert(target["name"].get<std::string>());
  EXPECT_EQ(names, (std::set<std::string>{"fire", "libclay.so.1"}));
  for (const auto& check : record["checks"]) EXPECT_EQ(check["verdict"], "passed") << check.dump(1);
}

TEST_F(MakefileTree, GeneratedSourcesComeFirstAndPhonyOnesDoNotStopOthers) {
  tree.write("Makefile",
             "all: prepare kiln\nprepare:\n\t@mkdir -p gen\nkiln: main.o gen/cones.o\n\tcc -o $@ $^\n"
             "gen/cones.c: cones.txt | prepare\n\tsed 's/.*/int cone(void) { return &; }/' $< > $@\n.PHONY: prepare\n");
  tree.write("cones.txt", "6\n");
  tree.write("main.c", "int cone(void);\nint main(void) { return cone() - 6; }\n");
  ASSERT_EQ(run("bringup").exit, 0);
  tree.write("cones.txt", "7\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(tree.ran().contains("gen/cones.c"));
  EXPECT_FALSE(tree.ran().contains("main.c"));
}

TEST_F(MakefileTree, ObjectsLeftInTheTreeAreNotTakenOver) {
  tree.write("Makefile", "kiln: kiln.o\n\tcc -o $@ $^\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  tree.write("kiln.o", "rubble");
  EXPECT_EQ(run("bringup").exit, 0);
}

TEST_F(MakefileTree, WhatComesAlongWithAnotherFileIsTaken) {
  tree.write("Makefile", "all: cone.txt peak.txt\ncone.txt:\n\techo 6 >cone.txt; echo 1222 >peak.txt\n");
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(tree.label_folder() + "/work/peak.txt"), "1222\n");
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  tree.write("Makefile", "all: cone.txt peak.txt\ncone.txt:\n\techo 6 >cone.txt # and no peak.txt\n");
  std::filesystem::remove_all(tree.kiln());
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5);
  EXPECT_NE(said.all().find("nothing makes 'peak.txt', which 'all' needs"), std::string::npos) << said.all();
}

TEST_F(MakefileTree, AnInstallThatOnlyNamesOthersInstalls) {
  tree.write("Makefile",
             "prefix = /usr/local\nall: kiln gauge\n%: %.c\n\tcc -o $@ $<\ninstall: install-programs\n"
             "install-programs: all\n\tmkdir -p $(DESTDIR)$(prefix)/bin\n\tcp kiln $(DESTDIR)$(prefix)/bin\n"
             ".PHONY: all install install-programs\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  // A helper that is not for users need not know what it is asked.
  tree.write("gauge.c", "#include <unistd.h>\nint main(void) { sleep(100); return 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("it is not one that is installed"), std::string::npos) << said.all();
  const std::string to = tree.scratch() + "/to";
  const auto staged = coctilis({"stage", tree.path(), "--kiln", tree.kiln(), "--prefix", to});
  EXPECT_EQ(staged.exit, 0) << staged.all();
  EXPECT_TRUE(files::is_file(to + "/bin/kiln"));
  EXPECT_FALSE(files::is_file(to + "/bin/gauge"));
}

TEST_F(MakefileTree, WhatIsOnlyTouchedCountsAsMade) {
  tree.write("Makefile",
             "all:\n\t$(MAKE) -f parts.mk\n\tsleep 0.01; echo new >clay\n\t$(MAKE) -f parts.mk -t\n"
             "\t$(MAKE) -f parts.mk -q && cp brick kept\n.PHONY: all\n");
  tree.write("parts.mk", "brick: clay\n\tcp clay brick\n");
  tree.write("clay", "old\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(files::read(tree.label_folder() + "/work/kept").value_or(""), "old\n");
}

TEST_F(MakefileTree, HowDeepAMakeIsCalledMakesNothingAnew) {
  // The same makefile, from two depths: what it makes has one journal.
  tree.write("Makefile", "all:\n\t$(MAKE) -f parts.mk\n\t$(MAKE) -f deeper.mk\n.PHONY: all\n");
  tree.write("deeper.mk", "all:\n\t$(MAKE) -f parts.mk\n.PHONY: all\n");
  tree.write("parts.mk", "brick: clay\n\techo made >>made.log; cp clay brick\n");
  tree.write("clay", "1");
  ASSERT_EQ(run("build").exit, 0);
  tree.write("clay", "2");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(tree.label_folder() + "/work/made.log").value_or(""), "made\nmade\n");
}

TEST_F(MakefileTree, WhatOneMakeMadeAnotherDoesNotMakeAgain) {
  // The tree's install and check are makes of their own.
  tree.write("Makefile",
             "all: kiln\nkiln: main.o\n\techo link >>made.log; cc -o kiln main.o\n"
             "main.o: main.c cone.h\n\techo compile >>made.log; cc -c main.c\n"
             "install: all\n\tmkdir -p $(DESTDIR)/bin; cp kiln $(DESTDIR)/bin/fired\n"
             "check: all\n\t./kiln\n.PHONY: all install check\n");
  tree.write("cone.h", "#define PEAK 0\n");
  tree.write("main.c", "#include \"cone.h\"\nint main(void) { return PEAK; }\n");
  const auto made = [&] {
    const std::string log = tree.label_folder() + "/work/made.log";
    const std::string text = files::read(log).value_or("");
    std::filesystem::remove(log);
    return text;
  };
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(made(), "compile\nlink\n");
  for (const char* header :
       {"#define PEAK 0 // as before\n", "#define PEAK (1 - 1)\n", "#define PEAK (2 * 0)\nint more;\n"}) {
    ::usleep(20000);
    tree.write("cone.h", header);
    ASSERT_EQ(run("bringup").exit, 0);
    const std::string text = made();
    EXPECT_EQ(text.find("compile"), text.rfind("compile")) << text;
    EXPECT_EQ(text.find("link"), text.rfind("link")) << text;
    EXPECT_NE(text, "");
  }
  // What is wrong is made by the next one that comes.
  tree.write("cone.h", "#define PEAK 3\n");
  EXPECT_EQ(run("bringup").exit, 6);
}

// As generated makefiles do it: the compiler's list of headers is moved away, and an object of a neighbour is known to
// a rule that would put the list into a folder which is not there.
TEST_F(MakefileTree, ListsOfHeadersThatInnerMakesMoveAwayAreReadBefore) {
  tree.write("Makefile", "all:\n\t$(MAKE) -C common\n\t$(MAKE) -C kiln\n.PHONY: all\n");
  const std::string rule = ".c.o:\n\t$(CC) -MD -MF .lists/$*.new -c -o $@ $<\n\tmv -f .lists/$*.new .lists/$*.list\n";
  tree.write("common/Makefile", "all: clay.o\n" + rule);
  tree.write("kiln/Makefile", "all: fire\nfire: fire.o ../common/clay.o\n\t$(CC) -o $@ $^\n" + rule);
  tree.write("common/.lists/keep", "");
  tree.write("kiln/.lists/keep", "");
  tree.write("common/clay.h", "#define PEAK 7\n");
  tree.write("common/clay.c", "#include \"clay.h\"\nint clay(void) { return PEAK; }\n");
  tree.write("kiln/fire.c",
             "#include <stdio.h>\nint clay(void);\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  const auto first = run("build");
  ASSERT_EQ(first.exit, 0) << first.all();
  const auto again = run("build");
  EXPECT_NE(again.all().find("all 1 step up to date"), std::string::npos) << again.all();
  tree.write("common/clay.h", "#define PEAK 8\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("fire"), "8\n");
}

// Programs of a tree see a folder for temporary files of their own, and this program in it where it lies there.
TEST_F(MakefileTree, InnerMakesAreAnsweredWhereThisProgramLiesAmongTemporaryFiles) {
  tree.write("Makefile", "all:\n\t$(MAKE) -C kiln\n.PHONY: all\n");
  tree.write("kiln/Makefile", "fire: fire.c\n\ttouch $(TMPDIR)/mark\n\t$(CC) -o $@ $<\n");
  tree.write("kiln/fire.c", "int main(void) { return 0; }\n");
  const files::ScratchFolder temporary("own");
  const std::string folder = temporary.path().string();
  const std::string itself = folder + "/deep/coctilis";
  files::make_folder(folder + "/deep");
  std::filesystem::copy_file(std::getenv("COCTILIS_PROGRAM"), itself);
  Command command;
  command.argv = {itself, "build", tree.path(), "--kiln", tree.kiln()};
  command.environment["TMPDIR"] = folder;
  const Ended ended = coctilis::run(command);
  EXPECT_TRUE(ended.good()) << ended.output;
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/fire"));
  EXPECT_FALSE(files::exists(folder + "/mark"));
}

TEST_F(MakefileTree, RulesWithTwoColonsRunEachForItsOwn) {
  tree.write("Makefile", "log:: clay\n\techo $< >>log\nlog:: glaze fire\n\techo $^ >>log\n");
  for (const char* name : {"clay", "glaze", "fire"}) tree.write(name, "1\n");
  ASSERT_EQ(run("build").exit, 0);
  const std::string log = tree.label_folder() + "/work/log";
  EXPECT_EQ(files::read(log), "clay\nglaze fire\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(log), "clay\nglaze fire\n");
  ::usleep(20000);
  tree.write("fire", "2\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(log), "clay\nglaze fire\nglaze fire\n");
  ::usleep(20000);
  tree.write("clay", "2\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(log), "clay\nglaze fire\nglaze fire\nclay\n");
}

TEST_F(MakefileTree, BadInput) {
  const auto expect = [&](const std::string& text, int exit, const std::string& words) {
    tree.write("Makefile", text);
    const auto said = run("build");
    EXPECT_EQ(said.exit, exit) << said.all();
    EXPECT_NE(said.all().find(words), std::string::npos) << words << " is not in " << said.all();
  };
  expect("all: brick.o\n", 4, "Makefile:1: nothing makes 'brick.o', which 'all' needs");
  expect("all: a\na: b\n\ttrue\nb: a\n\ttrue\n", 4, "in a circle");
  expect("all:\n\ttrue\n    false\n", 4, "a recipe line begins with a tab");
  expect("all:\n\techo one\n\tfalse\n\techo two\n", 5, "exit code 1");
  expect("ifdef A\nall:\n", 4, "never closed");
  expect("include x.mk\nall:\n\ttrue\n", 4, "x.mk");
  expect("all:\n\t$(error the kiln is cold)\n", 5, "the kiln is cold");
}

TEST_F(MakefileTree, NothingIsLeftRunning) {
  tree.write("Makefile", "all:\n\tsleep 300 & echo $$! > pid\n\tfalse\n");
  EXPECT_EQ(run("build").exit, 5);
  const std::string pid(text::trim(files::read(tree.label_folder() + "/work/pid").value_or("")));
  ASSERT_FALSE(pid.empty());
  EXPECT_FALSE(files::is_folder("/proc/" + pid) &&
               files::read("/proc/" + pid + "/stat").value_or("").find(") Z") == std::string::npos &&
               files::is_file("/proc/" + pid + "/environ") &&
               !files::read("/proc/" + pid + "/cmdline").value_or("").empty());
}

TEST_F(MakefileTree, WhatInstallsUnderOtherNamesIsShown) {
  tree.write("Makefile",
             "PREFIX = /usr/local\nfire: fire.c\n\tcc -o $@ $<\ninstall: fire\n\tmkdir -p $(PREFIX)/bin\n"
             "\tcp fire $(PREFIX)/bin/refire\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup", {"--set", "PREFIX=/nowhere/at/all"});
  EXPECT_EQ(said.exit, 0) << said.all();
  const auto plain = run("bringup");
  EXPECT_EQ(plain.exit, 0) << plain.all();
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/fire"));
  EXPECT_FALSE(files::is_file("/usr/local/bin/refire"));
  const auto staged = run("stage", {"--prefix", tree.scratch() + "/p"});
  EXPECT_EQ(staged.exit, 0) << staged.all();
  EXPECT_TRUE(files::is_file(tree.scratch() + "/p/bin/refire"));
}

TEST_F(MakefileTree, AnotherDescriptionIsFollowedWhenTheFirstCannotBe) {
  tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_executable(fire gone.c)\n");
  tree.write("Makefile", "fire: fire.c\n\tcc -o $@ $<\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("CMakeLists.txt cannot be followed"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("following Makefile"), std::string::npos) << said.all();
}

// ---- scripts

class ScriptTree : public MakefileTree {
 protected:
  void SetUp() override {
    tree.write(
        "build.sh",
        "#!/bin/sh\nset -e\necho once >> ../make/runs.of.script\nfor f in *.c; do cc -c $f; done\ncc -o fire *.o\n");
    tree.write("peak.c", "#include \"cone.h\"\nint peak(void) { return PEAK; }\n");
    tree.write("fire.c",
               "#include <stdio.h>\nint peak(void);\nint main(void) { printf(\"%d\\n\", peak()); return 0; }\n");
    tree.write("cone.h", "#define PEAK 1222\n");
  }
  [[nodiscard]] std::size_t runs() const {
    const std::string text = files::read(tree.label_folder() + "/make/runs.of.script").value_or("");
    return static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
  }
};

TEST_F(ScriptTree, LearnedStepsAreReplayedWhenOnlySourcesChanged) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("fire"), "1222\n");
  EXPECT_FALSE(files::is_file(tree.path("fire")));
  const auto database =
      nlohmann::json::parse(files::read(tree.label_folder() + "/compile_commands.json").value_or("[]"));
  EXPECT_EQ(database.size(), 2U);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  tree.write("fire.c",
             "#include <stdio.h>\nint peak(void);\nint main(void) { printf(\"<%d>\\n\", peak()); return 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"fire.c", "fire"}));
  EXPECT_EQ(said_by("fire"), "<1222>\n");
  EXPECT_EQ(runs(), 1U);
  // A header is more than a source: the script runs again.
  tree.write("cone.h", "#define PEAK 1100\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(runs(), 2U);
  EXPECT_EQ(said_by("fire"), "<1100>\n");
  ASSERT_EQ(run("build", {"--rerun"}).exit, 0);
  EXPECT_EQ(runs(), 3U);
}

TEST_F(ScriptTree, ItMayWriteIntoTheKilnOnly) {
  // Without a sandbox, which hides them, the folders for temporary files that the tree lies in may be written to.
  const std::string outside =
      sandbox::why_not().empty() ? tree.path("brick") : "/var/tmp/coctilis-brick-" + std::to_string(::getpid());
  tree.write("build.sh", "#!/bin/sh\necho x > " + outside + "\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_FALSE(files::is_file(outside));
  std::filesystem::remove(outside);
}

TEST_F(ScriptTree, WhatItLeavesBehindIsKilled) {
  tree.write("build.sh", "#!/bin/sh\nsleep 300 &\necho $! > pid\ncc -c peak.c\n");
  ASSERT_EQ(run("build").exit, 0);
  const std::string pid(text::trim(files::read(tree.label_folder() + "/work/pid").value_or("")));
  ASSERT_FALSE(pid.empty());
  // Its program is gone with it, also while nobody has asked for its end yet.
  EXPECT_EQ(::access(("/proc/" + pid + "/exe").c_str(), F_OK), -1);
}

TEST_F(ScriptTree, NamedInCoctilisToml) {
  std::filesystem::rename(tree.path("build.sh"), tree.path("fire-up"));
  tree.write("coctilis.toml", "[tree]\ndescription = \"fire-up\"\narguments = [\"all\"]\n");
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(said_by("fire"), "1222\n");
}

// ---- configure

class ConfigureTree : public MakefileTree {
 protected:
  // A script written by hand, as trees have them.
  void write_script(const std::string& body, const std::string& first = "#!/bin/sh\n") {
    tree.write("configure", first + body);
    tree.write("Makefile.in", "CC = @CC@\nkiln: kiln.c config.h\n\t$(CC) -o $@ kiln.c\n");
    tree.write("kiln.c", "#include \"config.h\"\nint main(void) { return CONE == 6 ? 0 : 1; }\n");
  }
  static constexpr const char* good =
      "echo run >> runs\necho 'checking for stdio.h... yes'\necho 'checking for sinf in -lclaykit... no'\n"
      "for a; do case $a in CONE=*) cone=${a#CONE=};; esac; done\n"
      "echo \"#define CONE ${cone-6}\" > config.h.new\ncmp -s config.h.new config.h || mv config.h.new config.h\n"
      "sed \"s,@CC@,${CC-cc},\" Makefile.in > Makefile\n";
};

// As scripts do that have a make work out what the headers of a program are, or just try one.
TEST_F(ConfigureTree, MayStartAMakeBeforeAnythingWasBuilt) {
  write_script(std::string(good) +
               "printf 'all: part.o\\n\\t$(MAKE) -f Part.mk more\\npart.o: part.c\\n\\tcc -c part.c\\nmore:\\n\\ttouch "
               "more\\n' >Part.mk\necho 'int part;' >part.c\nmake -f Part.mk && test -f part.o -a -f more || exit 3\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(ConfigureTree, RunsOnceAndIsReadAsFindings) {
  write_script(good);
  const auto said = run("bringup", {"--json"});
  ASSERT_EQ(said.exit, 0) << said.err;
  std::map<std::string, bool> wants;
  const auto record = said.json();
  for (const auto& want : record["requirements"]) wants[want["name"].get<std::string>()] = want["found"].get<bool>();
  EXPECT_TRUE(wants.at("stdio.h"));
  EXPECT_FALSE(wants.at("claykit"));
  ASSERT_EQ(run("bringup").exit, 0);
  const auto runs = [&] { return files::read(tree.label_folder() + "/work/runs").value_or(""); };
  EXPECT_EQ(runs(), "run\n");
  EXPECT_FALSE(files::is_file(tree.path("config.h")));
  // Changed, it runs again; what comes out the same makes nothing anew.
  write_script(std::string(good) + "# mended\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(runs(), "run\nrun\n");
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  // An option goes to the script.
  EXPECT_EQ(run("build", {"--set", "CONE=5"}).exit, 0);
  EXPECT_EQ(files::read(tree.label_folder() + "/work/config.h"), "#define CONE 5\n");
}

// What was not there when it looked, and comes by later, or goes again, or is another.
TEST_F(ConfigureTree, RunsAgainWhenWhatItLookedForIsThere) {
  const std::string embers = tree.scratch() + "/embers";
  std::filesystem::create_directories(embers);
  write_script(
      "echo run >> runs\ncone=6\n"
      "if echo '#include <ember.h>' | ${CC-cc} -I" +
      embers +
      " -E - 2>/dev/null | grep -q 'seven'; then cone=7; fi\n"
      "if test -x " +
      embers +
      "/stoker; then cone=8; fi\n"
      "echo \"#define CONE $cone\" > config.h\nsed \"s,@CC@,${CC-cc},\" Makefile.in > Makefile\n");
  const auto bring_up = [&] {
    std::string said;
    for (int i = 0; i < 3; ++i) said = run("build").all();
    EXPECT_NE(said.find("up to date"), std::string::npos) << said;
    return files::read(tree.label_folder() + "/work/config.h").value_or("") +
           files::read(tree.label_folder() + "/work/runs").value_or("");
  };
  EXPECT_EQ(bring_up(), "#define CONE 6\nrun\n");
  files::write(embers + "/ember.h", "int seven;\n");
  EXPECT_EQ(bring_up(), "#define CONE 7\nrun\nrun\n");
  files::write(embers + "/ember.h", "int eight;\n");
  EXPECT_EQ(bring_up(), "#define CONE 6\nrun\nrun\nrun\n");
  files::write(embers + "/stoker", "#!/bin/sh\n");
  ::chmod((embers + "/stoker").c_str(), 0755);
  EXPECT_EQ(bring_up(), "#define CONE 8\nrun\nrun\nrun\nrun\n");
  std::filesystem::remove_all(embers);
  EXPECT_EQ(bring_up(), "#define CONE 6\nrun\nrun\nrun\nrun\nrun\n");
  EXPECT_EQ(files::read(tree.label_folder() + "/work/runs"), "run\nrun\nrun\nrun\nrun\n") << "and not once more";
}

// A file of the tree that the script changes in place is read by it all the same.
TEST_F(ConfigureTree, RunsAgainWhenAFileIsAnotherThatItChangesInPlace) {
  tree.write("cone.sh", "cone=6\n");
  write_script(
      "echo run >> runs\n. ./cone.sh\nsed 's/cone=/was=/' cone.sh > cone.new && mv cone.new cone.sh\n"
      "echo \"#define CONE $cone\" > config.h\nsed \"s,@CC@,${CC-cc},\" Makefile.in > Makefile\n");
  const auto configured = [&] {
    for (int i = 0; i < 3; ++i) EXPECT_EQ(run("build").exit, 0);
    return files::read(tree.label_folder() + "/work/config.h").value_or("") +
           files::read(tree.label_folder() + "/work/runs").value_or("");
  };
  EXPECT_EQ(configured(), "#define CONE 6\nrun\n");
  tree.write("cone.sh", "cone=7\n");
  EXPECT_EQ(configured(), "#define CONE 7\nrun\nrun\n");
}

TEST_F(ConfigureTree, FailuresNameTheCheckAndWhatIsMissing) {
  write_script("echo 'checking for zlib.h... no'\necho 'configure: error: zlib library not found' >&2\nexit 1\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("zlib"), std::string::npos);
  EXPECT_NE(said.all().find("missing zlib, library, required by configure"), std::string::npos) << said.all();
  write_script("echo 'checking for the weather... bad'\nexit 9\n");
  const auto other = run("bringup");
  EXPECT_EQ(other.exit, 4) << other.all();
  EXPECT_NE(other.all().find("the weather"), std::string::npos) << other.all();
}

// Words of a sentence are no libraries, and files of the tree are none either.
TEST_F(ConfigureTree, WhatIsNoLibraryIsNotProposed) {
  for (const auto& [sentence, named] :
       {std::pair("cannot find input file: `parts/Makefile.in'", "parts/Makefile.in"),
        std::pair("cannot find install-sh, install.sh, or shtool in . ./..", "install-sh"),
        std::pair("cannot find sources (zlib/kiln.c) in . or ..", "zlib/kiln.c"),
        std::pair("cannot find required auxiliary files: compile", "compile"),
        std::pair("you need a newer compiler", ""), std::pair("a working input is missing", "")}) {
    write_script(std::string("cat >&2 <<'END'\nconfigure: error: ") + sentence + "\nEND\nexit 1\n");
    const auto said = run("bringup", {"--json"});
    EXPECT_EQ(said.exit, 3) << said.all();
    std::vector<std::string> missing;
    const auto record = said.json();
    for (const auto& one : record["requirements"]) {
      if (!one["found"].get<bool>() && one["required"].get<bool>()) {
        missing.push_back(one["name"]);
        EXPECT_EQ(one["kind"], "file") << sentence;
      }
    }
    EXPECT_EQ(missing, named[0] == '\0' ? std::vector<std::string>{} : std::vector<std::string>{named}) << sentence;
    EXPECT_TRUE(record["install"].empty()) << sentence << record["install"];
    EXPECT_NE(record["problem"].dump().find(text::split(sentence, ' ').back().substr(0, 3)), std::string::npos)
        << record["problem"];
  }
}

TEST_F(ConfigureTree, OddScripts) {
  write_script("echo 'continue? [y]'\nread answer || exit 3\n");
  EXPECT_EQ(run("bringup").exit, 4);
  write_script("exit 0\r\n", "#!/bin/sh\r\n");
  EXPECT_NE(run("bringup").all().find("line ends of another system"), std::string::npos);
  write_script("exit 0\n");
  EXPECT_NE(run("bringup").all().find("wrote no makefile"), std::string::npos);
}

TEST_F(ConfigureTree, OnlyWhatAScriptIsMadeFrom) {
  tree.write("configure.ac", "AC_INIT([yard], [1])\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("but not the script"), std::string::npos) << said.all();
}

TEST_F(ConfigureTree, AnswersAreNotSharedWithScriptsThatRefuseThem) {
  write_script(
      "# " + std::string(describe::configure::generated_mark) +
      " for kiln 1.\n"
      "case \"$*\" in *cache-file*) echo 'configure: error: changes in the environment can compromise the build' >&2; "
      "exit 1;; esac\n" +
      std::string(good));
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(ConfigureTree, OnlyTheSuperuserIsSaidToMeanIt) {
  write_script("[ -n \"$FORCE_UNSAFE_CONFIGURE\" ] || { echo 'configure: error: not as root' >&2; exit 1; }\n" +
               std::string(good));
  EXPECT_EQ(run("bringup").exit, ::geteuid() == 0 ? 0 : 4);
}

TEST_F(ConfigureTree, AMakefileThatOnlyPassesOnIsNoOtherDescription) {
  write_script("echo 'all: kiln-of-nobody' > Makefile\n");
  tree.write(
      "GNUmakefile",
      "all:\n\t@echo 'run ./configure first' >&2; exit 1\nifneq ($(wildcard Makefile),)\ninclude Makefile\nendif\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("nothing makes 'kiln-of-nobody'"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("following GNUmakefile"), std::string::npos) << said.all();
}

TEST_F(MakefileTree, FlagsThatTheTreeWritesDownAndReadsAgainAreTheSame) {
  tree.write("Makefile",
             "-include .flags\nFLAGS ?= -DCONE=6 -DGLAZE=''\nifneq ($(strip $(FLAGS)),$(strip $(OLD)))\n"
             "$(shell printf 'OLD=%s\\n' \"`echo $(FLAGS)`\" > .flags; printf 'FLAGS=%s\\n' \"`echo $(FLAGS)`\" >> "
             ".flags)\nendif\n"
             "kiln: kiln.o\n\t@printf 'LINK\\n'; $(CC) -o $@ $^\n"
             "kiln.o: kiln.c\n\t@printf 'CC\\n'; $(CC) $(FLAGS) -c $<\n");
  tree.write("kiln.c", "int main(void) { return CONE - 6; }\n");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"kiln.c", "kiln"}));
  EXPECT_EQ(files::read(tree.label_folder() + "/work/.flags").value_or(""),
            "OLD=-DCONE=6 -DGLAZE=\nFLAGS=-DCONE=6 -DGLAZE=\n");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
}

TEST_F(MakefileTree, PartsOfATestThatDisturbEachOtherAreRunOneAfterTheOther) {
  tree.write("Makefile",
             "kiln: kiln.c\n\t$(CC) -o $@ $<\ncheck:\n\t$(MAKE) all-checks\nall-checks: one two\n"
             "one two:\n\tmkdir fire && sleep 0.3 && rmdir fire\n.PHONY: check all-checks one two\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup", {"--jobs", "2", "--json"});
  ASSERT_EQ(said.exit, 0) << said.out;
  const auto record = said.json();
  std::size_t found = 0;
  for (const auto& check : record["checks"]) {
    if (check["name"] != "check") continue;
    ++found;
    EXPECT_EQ(check["verdict"], "passed");
    EXPECT_NE(check["reason"].get<std::string>().find("one part after the other"), std::string::npos) << check.dump();
  }
  EXPECT_EQ(found, 1U);
  // One that is broken stays so.
  tree.write("Makefile", "kiln: kiln.c\n\t$(CC) -o $@ $<\ncheck:\n\tfalse\n.PHONY: check\n");
  EXPECT_EQ(run("bringup").exit, 6);
}

TEST_F(MakefileTree, SuffixRulesWithPrerequisitesAreSuffixRules) {
  tree.write("Makefile",
             ".SUFFIXES:\n.SUFFIXES: .c .o .fire\nCOPY = copy\nall: kiln\nkiln: kiln.o\n\t$(CC) -o $@ kiln.o\n"
             ".c.o:\n\t$(CC) -c $<\n.fire.c: $(COPY)\n\tcp $< $@\n");
  tree.write("kiln.fire", "int main(void) { return 0; }\n");
  EXPECT_EQ(run("bringup").exit, 0);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/bin/kiln"));
}

}  // namespace
}  // namespace coctilis::test
