// What is said of a build is so for its user: programs start as they will, failures that are ignored are told, options
// and variants that were asked for hold or are said not to.
#include <sys/stat.h>

#include "support.h"

namespace coctilis::test {
namespace {

class HonestResults : public testing::Test {
 protected:
  Said run(const std::string& command, const std::vector<std::string>& more = {},
           const std::map<std::string, std::optional<std::string>>& environment = {}) const {
    std::vector<std::string> words = {command, tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    return coctilis(words, environment);
  }
  // The reason of a check in the last run.
  [[nodiscard]] std::string reason_of(const std::string& check) const {
    const auto kept = tree.record();
    for (const auto& one : kept["checks"]) {
      if (one["name"] == check) return one["verdict"].get<std::string>() + ": " + one["reason"].get<std::string>();
    }
    return "none";
  }
  // What a finished program says when its user starts it.
  [[nodiscard]] Ended started(const std::string& program) const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/" + program};
    command.folder = "/";
    command.environment["LD_LIBRARY_PATH"] = std::nullopt;
    return coctilis::run(command);
  }
  TreeFolder tree;
};

TEST_F(HonestResults, AProgramThatNeedsItsOwnLibraryIsStartedByOneThatSaysWhereItIs) {
  tree.write(
      "Makefile",
      "all: parts/libclay.so fire\nparts/libclay.so: clay.c\n\tmkdir -p parts\n\t$(CC) -shared -fPIC -o $@ clay.c\n"
      "fire: fire.c parts/libclay.so\n\t$(CC) -o $@ fire.c -Lparts -lclay $(LDFLAGS)\n");
  tree.write("clay.c", "int clay(void) { return 1222; }\n");
  tree.write("fire.c",
             "#include <stdio.h>\nint clay(void);\n"
             "int main(int count, char** words) { printf(\"%d %d %s\\n\", clay(), count, count > 1 ? words[1] : \"\"); "
             "return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_FALSE(files::is_link(tree.label_folder() + "/bin/fire"));
  EXPECT_EQ(started("fire").output, "1222 1 \n");
  EXPECT_NE(reason_of("fire loads").find("it is started by bin/fire, which says where"), std::string::npos)
      << reason_of("fire loads");
  EXPECT_EQ(reason_of("fire starts"), "passed: with --version: exit code 0");
  // Linked so that it finds the library itself, it needs none.
  tree.write("Makefile", tree.read("Makefile") + "LDFLAGS = -Wl,-rpath,$(CURDIR)/parts\n");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_TRUE(files::is_link(tree.label_folder() + "/bin/fire"));
  EXPECT_EQ(started("fire").output, "1222 1 \n");
}

TEST_F(HonestResults, CompilationsThatFailAndAreIgnoredAreNoBuild) {
  // An empty variable in front makes the dash of an option a mark: the failing of such commands does not count.
  tree.write("Makefile",
             "all: fire\nfire: fire.o\n\t$(TOOL) --quiet --mode=link $(CC) -o $@ fire.o\n"
             "fire.o: fire.c\n\t$(TOOL) --quiet --mode=compile $(CC) -c fire.c\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("nothing was built: 2 commands failed"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("mode=compile"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("--set"), std::string::npos) << said.all();
  // And so it is the next time.
  EXPECT_EQ(run("bringup").exit, 5);
}

TEST_F(HonestResults, InAPartOfTheTreeToo) {
  tree.write("Makefile", "all:\n\t$(MAKE) -C part\n.PHONY: all\n");
  tree.write("part/Makefile", "all: fire.o\nfire.o: fire.c\n\t-no-such-compiler -c fire.c\n.PHONY: all\n");
  tree.write("part/fire.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("nothing was built"), std::string::npos) << said.all();
}

TEST_F(HonestResults, WhatFailsAndIsIgnoredIsTold) {
  tree.write("Makefile", "fire: fire.c\n\t-false --polish\n\t$(CC) -o $@ fire.c\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("1 command failed, which does not matter by the description's word; the first: 'false "
                            "--polish', exit code 1"),
            std::string::npos)
      << said.all();
  EXPECT_EQ(tree.record()["build"]["ignored"], 1);
}

// Files that a command puts into a folder that it is to make are results like the folder.
TEST_F(HonestResults, WhatIsTakenOutOfAFolderOfResultsComesBack) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n"
             "add_custom_command(OUTPUT ${CMAKE_BINARY_DIR}/tables\n"
             "  COMMAND sh ${CMAKE_SOURCE_DIR}/fill.sh ${CMAKE_BINARY_DIR}/tables DEPENDS fill.sh)\n"
             "add_custom_target(all_tables ALL DEPENDS ${CMAKE_BINARY_DIR}/tables)\n");
  tree.write("fill.sh", "mkdir -p $1\necho one >$1/one\necho two >$1/two\n");
  ASSERT_EQ(run("build").exit, 0);
  const std::string one = tree.label_folder() + "/work/tables/one";
  std::filesystem::remove(one);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(one), "one\n");
  files::write(one, "three\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(files::read(one), "one\n");
}

TEST_F(HonestResults, OptionsStayUntilTheyAreChanged) {
  tree.write("Makefile", "CONE = 6\nfire: fire.c\n\t$(CC) -DCONE=$(CONE) -o $@ fire.c\n");
  tree.write("fire.c", "#include <stdio.h>\nint main(void) { printf(\"%d\\n\", CONE); return 0; }\n");
  ASSERT_EQ(run("build", {"--set", "CONE=4"}).exit, 0);
  EXPECT_EQ(started("fire").output, "4\n");
  const auto kept = run("build");
  EXPECT_NE(kept.all().find("options CONE=4 (given in an earlier run; --unset NAME drops one)"), std::string::npos)
      << kept.all();
  EXPECT_NE(kept.all().find("up to date"), std::string::npos) << kept.all();
  EXPECT_EQ(started("fire").output, "4\n");
  EXPECT_EQ(tree.record()["options_given"][0]["kept"], true);
  const auto changed = run("build", {"--set", "CONE=5"});
  EXPECT_NE(changed.all().find("options CONE=5"), std::string::npos) << changed.all();
  EXPECT_EQ(started("fire").output, "5\n");
  const auto dropped = run("build", {"--unset", "CONE"});
  EXPECT_EQ(dropped.exit, 0);
  EXPECT_EQ(dropped.all().find("options"), std::string::npos) << dropped.all();
  EXPECT_EQ(started("fire").output, "6\n");
  const auto none = run("build", {"--unset", "CONE"});
  EXPECT_EQ(none.exit, 2);
  EXPECT_NE(none.all().find("no value for 'CONE' is kept in this kiln"), std::string::npos) << none.all();
}

TEST_F(HonestResults, OptionsThatCannotBeReadAreNotForgotten) {
  tree.write("Makefile", "CONE = 6\nfire: fire.c\n\t$(CC) -DCONE=$(CONE) -o $@ fire.c\n");
  tree.write("fire.c", "#include <stdio.h>\nint main(void) { printf(\"%d\\n\", CONE); return 0; }\n");
  ASSERT_EQ(run("build", {"--set", "CONE=4"}).exit, 0);
  const std::string path = tree.label_folder() + "/options";
  const std::string whole = files::read(path).value();
  for (const std::string& damaged : {whole.substr(0, whole.size() - 1), std::string("{}\n"), std::string()}) {
    files::write(path, damaged);
    const auto said = run("build");
    EXPECT_EQ(said.exit, 7) << said.all();
    EXPECT_NE(said.all().find("the options that this kiln keeps cannot be read"), std::string::npos) << said.all();
  }
  std::filesystem::remove(path);
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_EQ(started("fire").output, "6\n");
}

TEST_F(HonestResults, OptionsOfOneVariantAreNoneOfAnother) {
  write_small_tree(tree);
  tree.write("CMakeLists.txt", tree.read("CMakeLists.txt") + "option(GLAZED \"with glaze\" OFF)\n");
  ASSERT_EQ(run("build", {"--set", "GLAZED=ON"}).exit, 0);
  EXPECT_EQ(run("build", {"--variant", "debug"}).all().find("GLAZED=ON"), std::string::npos);
  EXPECT_NE(run("build").all().find("GLAZED=ON"), std::string::npos);
}

TEST_F(HonestResults, AVariantThatHasNoSayIsTold) {
  tree.write("Makefile", "CFLAGS = -O2\nfire: fire.o\n\t$(CC) -o $@ $^\nfire.o: fire.c\n\t$(CC) $(CFLAGS) -c fire.c\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  const auto said = run("build", {"--variant", "debug"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("the variant 'debug' asks for -g -O0, but no compilation has all of that (fire.c has -O2)"),
            std::string::npos)
      << said.all();
  // One that is heard is not.
  const auto heard = run("build", {"--variant", "debug", "--set", "CFLAGS=-g -O0"});
  EXPECT_EQ(heard.all().find("the variant 'debug' asks"), std::string::npos) << heard.all();
  EXPECT_EQ(run("build").all().find("the variant"), std::string::npos);
}

TEST_F(HonestResults, AKilnDoesNotLieAmongSources) {
  write_small_tree(tree);
  tree.write("lib/clay.c", "int clay;\n");
  for (const char* place : {".", "lib", ".."}) {
    const auto said = coctilis({"build", ".", "--kiln", place}, {}, tree.path());
    EXPECT_EQ(said.exit, 2) << place << said.all();
    EXPECT_NE(said.all().find("is no kiln and not empty"), std::string::npos) << said.all();
    EXPECT_NE(said.all().find("choose a new or empty folder with --kiln DIR"), std::string::npos) << said.all();
  }
  EXPECT_FALSE(files::exists(tree.path(".gitignore")));
  EXPECT_FALSE(files::exists(tree.path("lib/.gitignore")));
}

TEST_F(HonestResults, TwoTreesDoNotShareAKiln) {
  write_small_tree(tree);
  ASSERT_EQ(run("build").exit, 0);
  std::filesystem::copy(tree.path(), tree.scratch() + "/other", std::filesystem::copy_options::recursive);
  const auto said = coctilis({"build", tree.scratch() + "/other", "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 7) << said.all();
  EXPECT_NE(said.all().find("is that of another tree"), std::string::npos) << said.all();
  EXPECT_EQ(started("press").output, "40 bricks\n");
  // One that was moved takes its kiln along.
  std::filesystem::rename(tree.path(), tree.path() + "-moved");
  const auto moved = coctilis({"build", tree.path() + "-moved", "--kiln", tree.kiln()});
  EXPECT_EQ(moved.exit, 0) << moved.all();
  EXPECT_NE(moved.all().find("its kiln is begun afresh"), std::string::npos) << moved.all();
}

TEST_F(HonestResults, PlacesThatAreGoneAreToldAndNoDefect) {
  write_small_tree(tree);
  const auto temporary = run("bringup", {}, {{"TMPDIR", tree.scratch() + "/nowhere"}});
  EXPECT_EQ(temporary.exit, 7) << temporary.all();
  EXPECT_NE(temporary.all().find("the folder for temporary files"), std::string::npos) << temporary.all();
  Command command;
  const char* program = std::getenv("COCTILIS_PROGRAM");
  command.argv = {"/bin/sh", "-c", "mkdir gone && cd gone && rmdir ../gone && exec \"$0\" survey .",
                  program == nullptr ? "coctilis" : program};
  command.folder = tree.scratch();
  const auto gone = coctilis::run(command);
  EXPECT_EQ(gone.code, 2) << gone.output;
  EXPECT_NE(gone.output.find("working folder"), std::string::npos) << gone.output;
}

}  // namespace
}  // namespace coctilis::test
