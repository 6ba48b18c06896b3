// "Up to date" is so, whatever was edited, killed or broken in between. Each of these was wrong once, or came close.
#include <fcntl.h>
#include <signal.h>
#include <sys/stat.h>
#include <unistd.h>

#include "support.h"

namespace coctilis::test {
namespace {

class FreshResults : public testing::Test {
 protected:
  Said build(const std::vector<std::string>& more = {},
             const std::map<std::string, std::optional<std::string>>& environment = {}) const {
    std::vector<std::string> words = {"build", tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    const auto said = coctilis(words, environment);
    EXPECT_EQ(said.exit, 0) << said.all();
    return said;
  }
  [[nodiscard]] bool is_up_to_date() const { return build().all().find("up to date") != std::string::npos; }
  [[nodiscard]] std::string said_by(const std::string& program) const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/" + program};
    return coctilis::run(command).output;
  }
  [[nodiscard]] std::string work(const std::string& name) const { return tree.label_folder() + "/work/" + name; }
  // Another text of the same size under the same date.
  void edit(const std::string& name, const std::string& from, const std::string& to) const {
    struct stat info {};
    ASSERT_EQ(::stat(tree.path(name).c_str(), &info), 0);
    std::string text = tree.read(name);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos);
    tree.write(name, text.replace(at, from.size(), to));
    const struct timespec times[2] = {info.st_atim, info.st_mtim};
    ASSERT_EQ(::utimensat(AT_FDCWD, tree.path(name).c_str(), times, 0), 0);
  }
  void date(const std::string& path, std::int64_t seconds) const {
    const struct timespec times[2] = {{seconds, 0}, {seconds, 0}};
    ASSERT_EQ(::utimensat(AT_FDCWD, path.c_str(), times, 0), 0);
  }
  void program(const std::string& name, const std::string& text) const {
    files::write(tree.scratch() + "/" + name, text);
    ::chmod((tree.scratch() + "/" + name).c_str(), 0755);
  }
  static constexpr const char* main_source =
      "#include <stdio.h>\n#include \"clay.h\"\nint main(void) { printf(\"%d\\n\", CLAY); return 0; }\n";
  TreeFolder tree;
};

class FreshMakefile : public FreshResults {
 protected:
  void SetUp() override {
    tree.write("Makefile", "CC = cc\nfire: main.o\n\t$(CC) -o $@ $^\nmain.o: main.c\n\t$(CC) -c main.c\n");
    tree.write("main.c", main_source);
    tree.write("clay.h", "#define CLAY 11\n");
    build();
    ASSERT_EQ(said_by("fire"), "11\n");
  }
};

TEST_F(FreshMakefile, SizeAndDateAreNotEnough) {
  edit("clay.h", "11", "12");
  build();
  EXPECT_EQ(said_by("fire"), "12\n");
  edit("main.c", "CLAY)", "CLAX)");
  edit("main.c", "CLAX)", "CLAY)");
  EXPECT_TRUE(is_up_to_date());
}

TEST_F(FreshMakefile, EverythingInTheFuture) {
  for (const char* name : {"Makefile", "main.c", "clay.h"}) date(tree.path(name), 4'000'000'000);
  EXPECT_TRUE(is_up_to_date());
  tree.write("clay.h", "#define CLAY 12\n");
  date(tree.path("clay.h"), 4'000'000'000);
  build();
  EXPECT_EQ(said_by("fire"), "12\n");
}

TEST_F(FreshMakefile, ResultsThatWereDamaged) {
  const std::string object = *files::read(work("main.o"));
  for (const char* name : {"main.o", "fire"}) {
    const std::string whole = *files::read(work(name));
    for (const auto& damaged : {std::string{}, whole.substr(0, whole.size() / 2), whole + "x"}) {
      files::write(work(name), damaged);
      ::chmod(work(name).c_str(), 0755);
      date(work(name), 4'000'000'000);
      build();
      EXPECT_EQ(said_by("fire"), "11\n") << name << damaged.size();
    }
  }
  EXPECT_EQ(files::read(work("main.o")), object);
  ::chmod(work("fire").c_str(), 0644);
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
}

TEST_F(FreshMakefile, AnObjectOfAnotherState) {
  const std::string old = *files::read(work("main.o"));
  edit("clay.h", "11", "12");
  build();
  files::write(work("main.o"), old);
  build();
  EXPECT_EQ(said_by("fire"), "12\n");
}

TEST_F(FreshMakefile, ALostOrDamagedJournal) {
  const std::string journal = tree.label_folder() + "/journal";
  const std::string whole = *files::read(journal);
  std::string flipped = whole;
  flipped[flipped.size() / 2] ^= 1;
  int cone = 20;
  for (const auto& text : {std::string{}, whole.substr(0, whole.size() / 3), flipped, std::string("nonsense")}) {
    files::write(journal, text);
    edit("clay.h", std::to_string(cone == 20 ? 11 : cone), std::to_string(cone + 1));
    build();
    EXPECT_EQ(said_by("fire"), std::to_string(++cone) + "\n");
    EXPECT_TRUE(is_up_to_date());
  }
  std::filesystem::remove(journal);
  edit("clay.h", std::to_string(cone), "99");
  build();
  EXPECT_EQ(said_by("fire"), "99\n");
}

TEST_F(FreshMakefile, AnotherTreeInThePlaceOfTheFirst) {
  std::filesystem::rename(tree.path(), tree.path() + ".old");
  std::filesystem::copy(tree.path() + ".old", tree.path(), std::filesystem::copy_options::recursive);
  struct stat info {};
  for (const char* name : {"Makefile", "main.c", "clay.h"}) {
    ASSERT_EQ(::stat((tree.path() + ".old/" + name).c_str(), &info), 0);
    date(tree.path(name), info.st_mtim.tv_sec);
  }
  edit("clay.h", "11", "12");
  build();
  EXPECT_EQ(said_by("fire"), "12\n");
}

TEST_F(FreshMakefile, ACopyThatWasEditedInTheKiln) {
  files::write(work("clay.h"), "#define CLAY 13\n");
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
}

TEST_F(FreshMakefile, ACompilerThatIsReplacedUnderItsPath) {
  program("tool", "#!/bin/sh\nexec cc -DMORE=1 \"$@\"\n");
  tree.write("Makefile",
             "CC = " + tree.scratch() + "/tool\nfire: main.o\n\t$(CC) -o $@ $^\nmain.o: main.c\n\t$(CC) -c main.c\n");
  tree.write("clay.h", "#define CLAY MORE\n");
  build();
  EXPECT_EQ(said_by("fire"), "1\n");
  const auto before = std::filesystem::last_write_time(tree.scratch() + "/tool");
  program("tool", "#!/bin/sh\nexec cc -DMORE=2 \"$@\"\n");
  std::filesystem::last_write_time(tree.scratch() + "/tool", before);
  build();
  EXPECT_EQ(said_by("fire"), "2\n");
}

TEST_F(FreshMakefile, AHeaderThatAppearsBesideTheSource) {
  tree.write("Makefile",
             "fire: src/main.o\n\tcc -o $@ $^\nsrc/main.o: src/main.c\n\tcc -Iinclude -c src/main.c -o $@\n");
  tree.write("src/main.c", main_source);
  tree.write("include/clay.h", "#define CLAY 21\n");
  build();
  EXPECT_EQ(said_by("fire"), "21\n");
  tree.write("src/clay.h", "#define CLAY 22\n");
  build();
  EXPECT_EQ(said_by("fire"), "22\n");
}

TEST_F(FreshMakefile, AResultWhoseRuleIsGoneIsNotShown) {
  tree.write("Makefile", "tile: main.o\n\tcc -o $@ $^\nmain.o: main.c\n\tcc -c main.c\n");
  build();
  EXPECT_EQ(said_by("tile"), "11\n");
  EXPECT_FALSE(files::exists(tree.label_folder() + "/bin/fire"));
  EXPECT_FALSE(files::exists(work("fire")));
}

TEST_F(FreshMakefile, WhatAKilledArchiverLeftIsNoResult) {
  // Archivers write beside their result first; killed, they leave an archive under a name of their own.
  tree.write("Makefile", "libclay.a: main.o\n\t$(AR) rcs $@ $^\nmain.o: main.c\n\tcc -c main.c\n");
  build();
  std::filesystem::copy_file(work("libclay.a"), work("stOqwo2Q"));
  build();
  EXPECT_FALSE(files::exists(tree.label_folder() + "/lib/stOqwo2Q"));
  EXPECT_FALSE(files::exists(work("stOqwo2Q")));
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libclay.a"));
}

TEST_F(FreshMakefile, FoldersAreMadeInTheKilnOnly) {
  tree.write("Makefile", "all: fire " + tree.scratch() + "/outside/mark\nfire: main.c\n\tcc -o $@ main.c\n" +
                             tree.scratch() + "/outside/mark:\n\t@true\n.PHONY: all\n");
  build();
  EXPECT_FALSE(files::exists(tree.scratch() + "/outside"));
}

TEST_F(FreshMakefile, WhatCannotBeReadAnyMore) {
  const auto by_modes = [&] { return coctilis_by_modes({"build", tree.path(), "--kiln", tree.kiln()}); };
  ASSERT_EQ(by_modes().exit, 0);
  for (const char* name : {"main.c", "clay.h", "Makefile"}) {
    ASSERT_EQ(::chmod(tree.path(name).c_str(), 0), 0);
    const auto said = by_modes();
    EXPECT_TRUE(said.exit == 4 || said.exit == 5) << name << ": " << said.all();
    EXPECT_EQ(said.all().find("up to date;"), std::string::npos) << name << ": " << said.all();
    ASSERT_EQ(::chmod(tree.path(name).c_str(), 0644), 0);
    EXPECT_EQ(by_modes().exit, 0) << name;
  }
  tree.write("more/cone.h", "");
  ASSERT_EQ(by_modes().exit, 0);
  ASSERT_EQ(::chmod(tree.path("more").c_str(), 0), 0);
  const auto said = by_modes();
  ::chmod(tree.path("more").c_str(), 0755);
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("a folder of the tree cannot be read"), std::string::npos) << said.all();
}

TEST_F(FreshResults, WhatCannotBeReadInAListfileTree) {
  const auto by_modes = [&] { return coctilis_by_modes({"build", tree.path(), "--kiln", tree.kiln()}); };
  tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_executable(fire main.c)\n");
  tree.write("main.c", main_source);
  tree.write("clay.h", "#define CLAY 1222\n");
  ASSERT_EQ(by_modes().exit, 0);
  ::usleep(30000);
  ASSERT_EQ(by_modes().exit, 0);
  const std::pair<const char*, const char*> all[] = {
      {"main.c", "main.c cannot be read"}, {"clay.h", "may not read it"}, {"CMakeLists.txt", "may not read it"}};
  for (const auto& [name, told] : all) {
    ASSERT_EQ(::chmod(tree.path(name).c_str(), 0), 0);
    const auto said = by_modes();
    EXPECT_TRUE(said.exit == 4 || said.exit == 5) << name << ": " << said.all();
    EXPECT_NE(said.all().find(told), std::string::npos) << said.all();
    ASSERT_EQ(::chmod(tree.path(name).c_str(), 0644), 0);
    EXPECT_EQ(by_modes().exit, 0) << name;
  }
}

TEST_F(FreshResults, DependencyFilesThatTheMakefileRewrites) {
  tree.write("Makefile",
             "fire: main.o\n\tcc -o $@ $^\nmain.o: main.c\n\tcc -MD -MF main.d -c main.c\n"
             "\t@sed -e 's/#.*//' -e '/^$$/ d' < main.d > .deps/main.P; rm -f main.d\n-include .deps/main.P\n");
  tree.write(".deps/main.P", "# nothing yet\n");
  tree.write("main.c", main_source);
  tree.write("clay.h", "#define CLAY 11\n");
  build();
  for (const char* cone : {"12", "13", "14"}) {
    tree.write("clay.h", "#define CLAY " + std::string(cone) + "\n");
    build();
    EXPECT_EQ(said_by("fire"), std::string(cone) + "\n");
    EXPECT_TRUE(is_up_to_date());
  }
  // One that is needed no more, but named there.
  tree.write("main.c", "#include <stdio.h>\nint main(void) { puts(\"none\"); return 0; }\n");
  std::filesystem::remove(tree.path("clay.h"));
  build();
  EXPECT_EQ(said_by("fire"), "none\n");
}

TEST_F(FreshResults, AHeaderThatARecipeMakesAndAHandRewrites) {
  tree.write("Makefile",
             "fire: main.c clay.h\n\tcc -o $@ main.c\nclay.h: data\n\techo \"#define CLAY $$(cat data)\" > $@\n");
  tree.write("main.c", main_source);
  tree.write("data", "11\n");
  build();
  files::write(work("clay.h"), "#define CLAY 12\n");
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
  // What it wrote besides as well.
  tree.write("Makefile",
             "fire: main.c stamp\n\tcc -o $@ main.c\nstamp: data\n\techo \"#define CLAY $$(cat data)\" > "
             "clay.h\n\ttouch $@\n");
  build();
  files::write(work("clay.h"), "#define CLAY 13\n");
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
}

TEST_F(FreshResults, WhatARecipeReadsWithoutSayingSo) {
  tree.write("Makefile", "fire: main.c clay.h\n\tcc -o $@ main.c\nclay.h: generate.sh\n\tsh generate.sh > $@\n");
  tree.write("generate.sh",
             "echo \"#define CLAY $(cat parts/* | wc -l)\"\ntest -f extra && echo '#undef CLAY' && echo '#define CLAY "
             "99'\ntrue\n");
  tree.write("main.c", main_source);
  tree.write("parts/a", "1\n");
  build();
  EXPECT_EQ(said_by("fire"), "1\n");
  EXPECT_TRUE(is_up_to_date());
  tree.write("parts/a", "1\n2\n");
  build();
  EXPECT_EQ(said_by("fire"), "2\n");
  tree.write("parts/b", "3\n");
  build();
  EXPECT_EQ(said_by("fire"), "3\n");
  tree.write("extra", "");
  build();
  EXPECT_EQ(said_by("fire"), "99\n");
  EXPECT_TRUE(is_up_to_date());
}

TEST_F(FreshResults, AScriptThatPutsSourcesTogether) {
  tree.write(
      "build.sh",
      "#!/bin/sh\nset -e\nmkdir -p out\ncat a.c b.c > out/all.c\ncc -c out/all.c -o out/all.o\ncc -o fire out/all.o\n");
  tree.write("a.c", "#include <stdio.h>\nint clay(void);\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  tree.write("b.c", "int clay(void) { return 11; }\n");
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
  tree.write("b.c", "int clay(void) { return 12; }\n");
  build();
  EXPECT_EQ(said_by("fire"), "12\n");
  EXPECT_TRUE(is_up_to_date());
}

TEST_F(FreshResults, OneThatPassesVariablesToItsMakes) {
  tree.write("Makefile", "CONE = 11\nexport CONE\nall: part\npart:\n\t$(MAKE) -C part\n.PHONY: all part\n");
  tree.write("part/Makefile", "fire: main.c\n\tcc -DCLAY=$(CONE) -o $@ main.c\n");
  tree.write("part/main.c", "#include <stdio.h>\nint main(void) { printf(\"%d\\n\", CLAY); return 0; }\n");
  build();
  EXPECT_EQ(said_by("fire"), "11\n");
  build({"--set", "CONE=12"});
  EXPECT_EQ(said_by("fire"), "12\n");
  EXPECT_TRUE(is_up_to_date());
}

// ---- runs that are killed

TEST_F(FreshResults, AKilledRunDoesNotGoOnInTheNext) {
  // Slow enough to be killed in the middle: half of the result is there then, and newer than what it is made from.
  tree.write("Makefile", "brick: clay\n\tcat clay > $@; sleep 0.7; echo end >> $@\n");
  tree.write("clay", "red\n");
  Command command;
  const char* coctilis = std::getenv("COCTILIS_PROGRAM");
  command.argv = {coctilis == nullptr ? "coctilis" : coctilis, "build", tree.path(), "--kiln", tree.kiln()};
  command.environment["XDG_CACHE_HOME"] = TEST_CACHE;
  Process killed = Process::start(command);
  const double until = now() + 20;
  while (now() < until && files::read(work("brick")) != "red\n") ::usleep(5000);
  ASSERT_EQ(files::read(work("brick")), "red\n");
  ::kill(killed.pid(), SIGKILL);
  while (!killed.poll()) ::usleep(5000);
  tree.write("clay", "tan\n");
  build();
  EXPECT_EQ(files::read(work("brick")), "tan\nend\n");
  ::usleep(900000);
  EXPECT_EQ(files::read(work("brick")), "tan\nend\n");
  EXPECT_TRUE(is_up_to_date());
}

TEST_F(FreshResults, WhatWasHalfMadeIsMadeAgain) {
  tree.write("Makefile", "brick: clay\n\tcat clay > $@; sleep 0.7; echo end >> $@\n");
  tree.write("clay", "red\n");
  Command command;
  const char* coctilis = std::getenv("COCTILIS_PROGRAM");
  command.argv = {coctilis == nullptr ? "coctilis" : coctilis, "build", tree.path(), "--kiln", tree.kiln()};
  command.environment["XDG_CACHE_HOME"] = TEST_CACHE;
  for (const int signal : {SIGKILL, SIGINT}) {
    Process stopped = Process::start(command);
    const double until = now() + 20;
    while (now() < until && files::read(work("brick")) != "red\n") ::usleep(5000);
    signal == SIGKILL ? stopped.signal(SIGKILL) : static_cast<void>(::kill(stopped.pid(), signal));
    while (!stopped.poll()) ::usleep(5000);
    EXPECT_NE(files::read(work("brick")).value_or(""), "red\nend\n");
    build();
    EXPECT_EQ(files::read(work("brick")), "red\nend\n");
    tree.write("clay", "red\n\n");
    build();
    tree.write("clay", "red\n");
    std::filesystem::remove(work("brick"));
  }
}

TEST_F(FreshResults, OneStateKilledInTheOtherIsTheFirstAgain) {
  tree.write("Makefile", "brick: clay\n\tcp clay $@; sleep 0.5\n");
  tree.write("clay", "red\n");
  build();
  tree.write("clay", "tan\n");
  Command command;
  const char* coctilis = std::getenv("COCTILIS_PROGRAM");
  command.argv = {coctilis == nullptr ? "coctilis" : coctilis, "build", tree.path(), "--kiln", tree.kiln()};
  command.environment["XDG_CACHE_HOME"] = TEST_CACHE;
  Process killed = Process::start(command);
  const double until = now() + 20;
  while (now() < until && files::read(work("brick")) != "tan\n") ::usleep(5000);
  killed.signal(SIGKILL);
  while (!killed.poll()) ::usleep(5000);
  tree.write("clay", "red\n");
  build();
  EXPECT_EQ(files::read(work("brick")), "red\n");
}

}  // namespace
}  // namespace coctilis::test
