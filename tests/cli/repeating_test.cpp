// A run that would come upon nothing else than the one before repeats it, and does so in no other case.
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <functional>

#include "support.h"

namespace coctilis::test {
namespace {

class Repeating : public testing::Test {
 protected:
  Repeating() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_library(clay STATIC clay.c)\n"
               "target_include_directories(clay PUBLIC early include)\nadd_executable(fire fire.c)\n"
               "target_link_libraries(fire clay)\n");
    tree.write("include/cone.h", "#define CONE 1222\n");
    tree.write("early/readme", "nothing yet\n");
    tree.write("clay.c", "#include \"cone.h\"\nint clay(void) { return CONE; }\n");
    tree.write("fire.c",
               "#include <stdio.h>\nint clay(void);\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  }
  Said run(const std::vector<std::string>& more = {},
           const std::map<std::string, std::optional<std::string>>& environment = {}) const {
    std::vector<std::string> words = {"build", tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    return coctilis(words, environment);
  }
  // The run that the last one repeats; 0: none.
  [[nodiscard]] int repeated() const {
    const auto kept = tree.record();
    return kept["repeats"].is_number() ? kept["repeats"].get<int>() : 0;
  }
  // Runs until a run repeats another.
  void settle(const std::vector<std::string>& more = {},
              const std::map<std::string, std::optional<std::string>>& environment = {}) const {
    for (int i = 0; i < 6; ++i) {
      ::usleep(30000);  // files that are too young are looked at once more
      const auto said = run(more, environment);
      ASSERT_EQ(said.exit, 0) << said.all();
      if (i > 0 && repeated() > 0) return;
    }
    FAIL() << "no run repeats another";
  }
  [[nodiscard]] std::string fired() const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/fire"};
    return coctilis::run(command).output;
  }
  // What is different makes the next run one that repeats nothing.
  void expect_not_repeated(const char* what, const std::function<void()>& change,
                           const std::vector<std::string>& more = {},
                           const std::map<std::string, std::optional<std::string>>& environment = {}) {
    SCOPED_TRACE(what);
    settle();
    change();
    const auto said = run(more, environment);
    EXPECT_EQ(said.exit, 0) << said.all();
    EXPECT_EQ(repeated(), 0);
  }
  // Another content of the same length, and the date as it was.
  static void replace_in_place(const std::string& path, const std::string& from, const std::string& to) {
    struct stat info {};
    ASSERT_EQ(::stat(path.c_str(), &info), 0);
    std::string text = files::read(path).value_or("");
    ASSERT_NE(text.find(from), std::string::npos);
    text.replace(text.find(from), from.size(), to);
    files::write(path, text);
    const timespec times[2] = {info.st_atim, info.st_mtim};
    ASSERT_EQ(::utimensat(AT_FDCWD, path.c_str(), times, 0), 0);
  }
  TreeFolder tree;
};

TEST_F(Repeating, ARunWithNothingToDoSaysWhatTheOneBeforeSaid) {
  ASSERT_EQ(run().exit, 0);
  const auto first = tree.record();
  settle();
  const auto said = run();
  EXPECT_NE(said.all().find("all 4 steps up to date"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("2 targets, 4 steps"), std::string::npos) << said.all();
  const auto kept = tree.record();
  EXPECT_GT(repeated(), 0);
  EXPECT_EQ(kept["build"]["up_to_date"], 4) << kept.dump(1);
  EXPECT_LT(files::read(tree.label_folder() + "/runs/latest/run.json")->size(), 2000U);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/runs/" + std::to_string(repeated()) + "/run.json"));
  // Whoever asks gets the whole.
  EXPECT_EQ(run({"--json"}).json()["targets"].size(), first["targets"].size());
  const auto why = coctilis({"why", "fire", tree.path(), "--kiln", tree.kiln()});
  EXPECT_NE(why.all().find("up to date"), std::string::npos) << why.all();
}

TEST_F(Repeating, NothingElseThanTheSame) {
  settle();
  const std::string kiln = tree.label_folder();
  expect_not_repeated("a source, same size and date",
                      [&] { replace_in_place(tree.path("include/cone.h"), "1222", "1223"); });
  EXPECT_EQ(fired(), "1223\n");
  expect_not_repeated("a header that is found first", [&] { tree.write("early/cone.h", "#define CONE 1001\n"); });
  EXPECT_EQ(fired(), "1001\n");
  expect_not_repeated("a new file", [&] { tree.write("notes.c", "int notes;\n"); });
  expect_not_repeated("an object", [&] {
    std::string object;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(kiln + "/work")) {
      if (entry.path().extension() == ".o" && entry.path().string().find("clay") != std::string::npos)
        object = entry.path().string();
    }
    ASSERT_FALSE(object.empty());
    files::write(object, "");
  });
  expect_not_repeated("a result that is not shown any more", [&] { std::filesystem::remove(kiln + "/bin/fire"); });
  EXPECT_EQ(fired(), "1001\n");
  expect_not_repeated("the mode of a result",
                      [&] { ASSERT_EQ(::chmod(std::filesystem::canonical(kiln + "/bin/fire").c_str(), 0700), 0); });
  expect_not_repeated("the compile database", [&] { std::filesystem::remove(kiln + "/compile_commands.json"); });
  EXPECT_TRUE(files::is_file(kiln + "/compile_commands.json"));
  expect_not_repeated("the journal", [&] { std::filesystem::remove(kiln + "/journal"); });
  expect_not_repeated("the record", [&] { std::filesystem::remove_all(kiln + "/runs/" + std::to_string(repeated())); });
  expect_not_repeated("what is kept of it", [&] {
    std::string kept = files::read(kiln + "/standing").value_or("");
    kept[kept.size() / 2] = static_cast<char>(kept[kept.size() / 2] ^ 1);
    files::write(kiln + "/standing", kept);
  });
  expect_not_repeated("the description",
                      [&] { tree.write("CMakeLists.txt", tree.read("CMakeLists.txt") + "# more\n"); });
  expect_not_repeated("the settings", [&] { tree.write("coctilis.toml", "[options]\nGLAZE = \"clear\"\n"); });
}

TEST_F(Repeating, NothingElseThanTheSameCall) {
  expect_not_repeated("an option", [] {}, {"--set", "GLAZE=clear"});
  expect_not_repeated("a variable", [] {}, {}, {{"CPATH", tree.path("include")}});
  expect_not_repeated("a target", [] {}, {"clay"});
  expect_not_repeated("everything anew", [] {}, {"--rerun"});
}

TEST_F(Repeating, ALinkThatLeadsElsewhere) {
  tree.write("glazes/one.h", "#define CONE 7\n");
  tree.write("glazes/two.h", "#define CONE 8\n");
  std::filesystem::remove(tree.path("include/cone.h"));
  std::filesystem::create_symlink("../glazes/one.h", tree.path("include/cone.h"));
  settle();
  EXPECT_EQ(fired(), "7\n");
  std::filesystem::remove(tree.path("include/cone.h"));
  std::filesystem::create_symlink("../glazes/two.h", tree.path("include/cone.h"));
  ASSERT_EQ(run().exit, 0);
  EXPECT_EQ(repeated(), 0);
  EXPECT_EQ(fired(), "8\n");
}

TEST_F(Repeating, ACompilerThatAppears) {
  const std::string bin = tree.scratch() + "/bin";
  files::make_folder(bin);
  const std::map<std::string, std::optional<std::string>> path = {{"PATH", bin + ":" + std::getenv("PATH")}};
  settle({}, path);
  files::write(bin + "/gcc", "#!/bin/sh\nexec /usr/bin/gcc \"$@\"\n");
  std::filesystem::permissions(bin + "/gcc", std::filesystem::perms::owner_all);
  ASSERT_EQ(run({}, path).exit, 0);
  EXPECT_EQ(repeated(), 0);
  settle({}, path);
  // One that only bears another name than those before.
  files::write(bin + "/clang-99", "#!/bin/sh\nexec /usr/bin/gcc \"$@\"\n");
  std::filesystem::permissions(bin + "/clang-99", std::filesystem::perms::owner_all);
  ASSERT_EQ(run({}, path).exit, 0);
  EXPECT_EQ(repeated(), 0);
}

TEST_F(Repeating, AnotherRevision) {
  const auto git = [&](const std::vector<std::string>& words) {
    Command command;
    command.argv = {"git", "-C", tree.path(), "-c", "user.name=yard", "-c", "user.email=yard@brickyard.example"};
    command.argv.insert(command.argv.end(), words.begin(), words.end());
    ASSERT_TRUE(coctilis::run(command).good());
  };
  git({"init", "-q"});
  git({"add", "-A"});
  git({"commit", "-qm", "clay"});
  settle();
  git({"commit", "-qm", "glaze", "--allow-empty"});
  ASSERT_EQ(run().exit, 0);
  EXPECT_EQ(repeated(), 0);
}

TEST_F(Repeating, MakefilesToo) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile",
             "OBJECTS = $(patsubst %.c,%.o,$(wildcard *.c))\nall: fire\nfire: $(OBJECTS)\n\t$(CC) -o $@ $^\n"
             "%.o: %.c\n\t$(CC) -Iearly -Iinclude -c $<\n");
  settle();
  const std::string kiln = tree.label_folder();
  EXPECT_EQ(fired(), "1222\n");
  expect_not_repeated("a header, same size and date",
                      [&] { replace_in_place(tree.path("include/cone.h"), "1222", "1223"); });
  EXPECT_EQ(fired(), "1223\n");
  expect_not_repeated("a header that is found first", [&] { tree.write("early/cone.h", "#define CONE 1001\n"); });
  EXPECT_EQ(fired(), "1001\n");
  expect_not_repeated("a new source", [&] { tree.write("notes.c", "int notes;\n"); });
  expect_not_repeated("a source that is gone", [&] { std::filesystem::remove(tree.path("notes.c")); });
  expect_not_repeated("an object", [&] { files::write(kiln + "/work/clay.o", ""); });
  expect_not_repeated("a source in the copy",
                      [&] { files::write(kiln + "/work/clay.c", "int clay(void) { return 0; }\n"); });
  EXPECT_EQ(fired(), "1001\n");
  expect_not_repeated("the makefile", [&] { tree.write("Makefile", tree.read("Makefile") + "# more\n"); });
  // Its checks want the recipes.
  settle();
  EXPECT_EQ(coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}).exit, 0);
  EXPECT_EQ(repeated(), 0);
}

TEST_F(Repeating, WhatStartsMakesOfItsOwnIsAskedEachTime) {
  std::filesystem::remove(tree.path("CMakeLists.txt"));
  tree.write("Makefile", "all:\n\t$(MAKE) -C part\n.PHONY: all\n");
  tree.write("part/Makefile", "fire: fire.c\n\t$(CC) -o $@ $<\n");
  tree.write("part/fire.c", "int main(void) { return 0; }\n");
  for (int i = 0; i < 4; ++i) {
    ::usleep(30000);
    ASSERT_EQ(run().exit, 0);
    EXPECT_EQ(repeated(), 0);
  }
}

TEST_F(Repeating, ChecksAreMadeAllTheSame) {
  settle();
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_GT(repeated(), 0);
  EXPECT_EQ(tree.record()["checks"].size(), 2U);
  EXPECT_NE(coctilis({"report", tree.path(), "--kiln", tree.kiln()}).all().find("fire loads"), std::string::npos);
}

}  // namespace
}  // namespace coctilis::test
