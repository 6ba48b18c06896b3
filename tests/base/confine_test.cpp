// Where programs may write, and how it is told that they wanted to write elsewhere.
#include "base/confine.h"

#include <gtest/gtest.h>

#include <cstdlib>

#include "base/files.h"
#include "base/process.h"

namespace coctilis {
namespace {

using Folders = std::vector<std::string>;

class Confined : public testing::Test {
 protected:
  void SetUp() override {
    files::make_folder(root + "/kiln/deep");
    files::make_folder(root + "/kiln/other");
    files::make_folder(root + "/tree");
    files::write(root + "/tree/clay", "red\n");
    if (run("echo x >" + root + "/tree/x").good()) GTEST_SKIP() << "this kernel has no Landlock";
  }
  // As a command of the tree that may write to the kiln.
  [[nodiscard]] Ended run(const std::string& line) const {
    Command command;
    command.argv = {"/bin/sh", "-c", line};
    command.folder = root + "/kiln";
    command.writable = {root + "/kiln", root + "/not-there"};
    return coctilis::run(command);
  }
  files::ScratchFolder scratch_{"confine"};
  const std::string root = scratch_.path().string();
};

TEST_F(Confined, WritesWhereItMay) {
  EXPECT_TRUE(
      run("echo x >deep/a && echo y >/dev/null && mv deep/a other/b && ln other/b deep/c && rm other/b").good());
  EXPECT_EQ(files::read(root + "/kiln/deep/c"), "x\n");
}

TEST_F(Confined, ReadsAndRunsEverything) { EXPECT_EQ(run("cat ../tree/clay").output, "red\n"); }

TEST_F(Confined, ChangesNothingElsewhere) {
  for (const char* line : {"echo x >>../tree/clay", "echo x >../tree/new", "rm ../tree/clay", "mv ../tree/clay deep",
                           "mkdir ../tree/folder", "ln -s clay ../tree/link", "mkfifo ../tree/pipe",
                           "truncate -s 0 ../tree/clay", "cp deep ../tree -r"}) {
    const Ended ended = run(line);
    EXPECT_FALSE(ended.good()) << line;
    EXPECT_TRUE(tells_of_refused_writing(ended.output, root + "/tree")) << line << ": " << ended.output;
  }
  EXPECT_EQ(files::names_in(root + "/tree"), Folders{"clay"});
  EXPECT_EQ(files::read(root + "/tree/clay"), "red\n");
}

TEST_F(Confined, WhatItStartsIsConfinedToo) {
  EXPECT_FALSE(run("sh -c 'setsid sh -c \"echo x >../tree/x\"'; test -e ../tree/x").good());
}

TEST_F(Confined, ThisProgramIsNot) {
  (void)run("true");
  files::write(root + "/tree/mine", "x");
  EXPECT_TRUE(files::is_file(root + "/tree/mine"));
}

TEST_F(Confined, ManyAtOnceAndOneInsideAnother) {
  std::vector<Command> commands(20);
  for (auto& command : commands) {
    command.argv = {"/bin/sh", "-c", "echo x >../tree/x"};
    command.folder = root + "/kiln";
    command.writable = {root + "/kiln"};
  }
  for (const auto& ended : run_all(commands, 4)) EXPECT_FALSE(ended.good());
}

// A variable of this process, as it was afterwards.
class Variable {
 public:
  Variable(const char* name, const std::string& value) : name_(name) {
    if (const char* before = std::getenv(name)) before_ = before;
    ::setenv(name, value.c_str(), 1);
  }
  ~Variable() {
    if (before_)
      ::setenv(name_, before_->c_str(), 1);
    else
      ::unsetenv(name_);
  }
  Variable(const Variable&) = delete;
  Variable& operator=(const Variable&) = delete;

 private:
  const char* name_;
  std::optional<std::string> before_;
};

bool has(const Folders& folders, const std::string& folder) {
  return std::find(folders.begin(), folders.end(), folder) != folders.end();
}

TEST(Confinement, IsTheKilnAndTemporaryFiles) {
  const Variable cache("XDG_CACHE_HOME", "/home/potter/cache");
  const auto found = confinement_of("/home/potter/brickyard", "/home/potter/brickyard/kiln/gcc");
  // Of the kiln only what commands fill, not what is kept of runs.
  EXPECT_EQ(found.writable.front(), "/home/potter/brickyard/kiln/gcc/work");
  EXPECT_FALSE(has(found.writable, "/home/potter/brickyard/kiln/gcc"));
  EXPECT_FALSE(has(found.writable, "/home/potter/brickyard/kiln/gcc/journal"));
  EXPECT_TRUE(has(found.writable, "/tmp"));
  EXPECT_TRUE(has(found.writable, "/var/tmp"));
  EXPECT_FALSE(has(found.writable, "/home/potter/cache"));
  EXPECT_FALSE(has(found.writable, "/home/potter/brickyard"));
  EXPECT_TRUE(found.environment.empty());
}

TEST(Confinement, OfATreeAmongTemporaryFilesHasAFolderOfItsOwnForThem) {
  const Variable temporary("TMPDIR", "/tmp");
  const auto found = confinement_of("/tmp/brickyard", "/srv/kiln");
  EXPECT_FALSE(has(found.writable, "/tmp"));
  EXPECT_EQ(found.environment.at("TMPDIR"), "/srv/kiln/temporary");
}

TEST(Confinement, OfACopyInTheKilnIsLooser) {
  const auto found = confinement_of("/tmp/kiln/tree", "/tmp/kiln");
  EXPECT_TRUE(has(found.writable, "/tmp"));
  EXPECT_TRUE(found.environment.empty());
}

TEST(RefusedWriting, IsTold) {
  for (const char* said :
       {"cp: cannot create regular file 'x': Permission denied", "PermissionError: [Errno 13] x",
        "sh: 1: cannot create x: Read-only file system", "Error: EACCES: x", "fire: cannot open /tree/cone.h",
        "Failed to write /tree/cone.h", "Unable to create a file; may not have permission to do so",
        "failed to open a temporary file", "'/tree/bin' lies outside the output folder and is not written"})
    EXPECT_TRUE(tells_of_refused_writing(said, "/tree")) << said;
  for (const char* said : {"", "cannot open /elsewhere/cone.h", "/tree/kiln.c:3: warning: unused variable", "no clay",
                           "writing /tree/cone.h"})
    EXPECT_FALSE(tells_of_refused_writing(said, "/tree")) << said;
}

}  // namespace
}  // namespace coctilis
