// Where programs may write, and how it is told that they wanted to write elsewhere.
#include "base/confine.h"

#include <gtest/gtest.h>
#include <sys/stat.h>

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

TEST(RefusedWriting, TellsWhere) {
  EXPECT_EQ(refused_path("/bin/sh: 1: cannot create /home/potter/log: Read-only file system\n"), "/home/potter/log");
  EXPECT_EQ(refused_path("cp: cannot create regular file '/srv/x': Read-only file system"), "/srv/x");
  EXPECT_EQ(refused_path("touch: cannot touch ‘../x’: Read-only file system"), "../x");
  EXPECT_EQ(refused_path("cc: error: /home/potter/x.c: No such file or directory"), "");
}

TEST(RefusedNetwork, TellsWhatWasWanted) {
  EXPECT_EQ(refused_address("curl: (6) Could not resolve host: clay.example.org", ""), "clay.example.org");
  EXPECT_EQ(refused_address("connect to 192.0.2.7:80 failed: Network is unreachable", ""), "192.0.2.7:80");
  EXPECT_EQ(refused_address("[Errno 111] Connection refused", "fetch http://127.0.0.1:8080/clay"),
            "http://127.0.0.1:8080/clay");
  EXPECT_EQ(
      refused_address("curl: (7) Failed to connect to 192.0.2.17 port 80 after 0 ms: Couldn't connect to server", ""),
      "192.0.2.17");
  EXPECT_EQ(refused_address("Connection refused", "fire"), "Connection refused");
  EXPECT_EQ(refused_address("undefined reference to `connect'", "fetch http://127.0.0.1/"), "");
}

// What this program writes itself, while links lead out of the folder that it keeps to.
class Limited : public testing::Test {
 protected:
  void SetUp() override {
    if (!why_no_limit().empty()) GTEST_SKIP() << why_no_limit();
    files::make_folder(kiln);
    files::write(outside + "/precious", "kept\n");
    std::filesystem::create_directory_symlink(outside, kiln + "/way");
    std::filesystem::create_symlink(outside + "/precious", kiln + "/link");
    std::filesystem::permissions(outside + "/precious", static_cast<std::filesystem::perms>(0644));
  }
  void limited(const std::function<void()>& work) { with_writing_limited_to({kiln}, work); }
  files::ScratchFolder scratch_{"limited"};
  const std::string kiln = scratch_.path().string() + "/kiln";
  const std::string outside = scratch_.path().string() + "/outside";
};

TEST_F(Limited, WritesWithinOnly) {
  limited([&] {
    files::write(kiln + "/deep/a", "x");
    try {
      files::write(kiln + "/way/b", "x");
      ADD_FAILURE() << "it went through the link";
    } catch (const Fault& fault) {
      EXPECT_EQ(fault.problem().exit, Exit::kiln);
      EXPECT_EQ(fault.problem().cause, kiln + "/way leads to " + outside);
    }
    std::error_code error;
    EXPECT_FALSE(std::filesystem::remove(kiln + "/way/precious", error));
    std::filesystem::remove_all(kiln + "/way/", error);
    std::filesystem::create_directory(kiln + "/way/folder", error);
    EXPECT_TRUE(error);
  });
  EXPECT_EQ(files::read(kiln + "/deep/a"), "x");
  EXPECT_EQ(files::names_in(outside), Folders{"precious"});
  // And no more when it is over.
  files::write(outside + "/b", "x");
}

TEST_F(Limited, ModesAndTimesStay) {
  struct stat before {};
  ASSERT_EQ(::stat((outside + "/precious").c_str(), &before), 0);
  files::write(kiln + "/own", "x");
  limited([&] {
    EXPECT_FALSE(files::set_mode(kiln + "/link", 0777));
    EXPECT_FALSE(files::set_mode(kiln + "/way/precious", 0777));
    EXPECT_FALSE(files::set_time(kiln + "/way/precious", 1'000'000'000'000'000'000));
    EXPECT_TRUE(files::set_mode(kiln + "/own", 0755));
    EXPECT_TRUE(files::set_time(kiln + "/own", 1'000'000'000'000'000'000));
    EXPECT_TRUE(files::set_time(kiln + "/way", 1'000'000'000'000'000'000, true)) << "the link itself is its own";
  });
  struct stat after {};
  ASSERT_EQ(::stat((outside + "/precious").c_str(), &after), 0);
  EXPECT_EQ(after.st_mode, before.st_mode);
  EXPECT_EQ(after.st_mtim.tv_sec, before.st_mtim.tv_sec);
  ASSERT_EQ(::stat((kiln + "/own").c_str(), &after), 0);
  EXPECT_EQ(after.st_mode & 0777U, 0755U);
  EXPECT_EQ(after.st_mtim.tv_sec, 1'000'000'000);
}

TEST_F(Limited, ProgramsAreStartedAllTheSame) {
  limited([&] {
    Command command;
    command.argv = {"/bin/sh", "-c", "echo $$ && echo fired >" + kiln + "/fired"};
    command.writable = {kiln};
    EXPECT_TRUE(coctilis::run(command).good());
    const files::ScratchFolder scratch("inside");
    EXPECT_TRUE(files::is_folder(scratch.path().string()));
    without_limit([&] { files::write(outside + "/asked-for", "x"); });
  });
  EXPECT_EQ(files::read(kiln + "/fired"), "fired\n");
  EXPECT_TRUE(files::is_file(outside + "/asked-for"));
}

TEST_F(Limited, WhatIsThrownComesOut) {
  EXPECT_THROW(limited([] { throw Fault({Exit::kiln, {}, "x", {}, {}, {}}); }), Fault);
  EXPECT_THROW(limited([] { without_limit([] { throw std::runtime_error("x"); }); }), std::runtime_error);
}

}  // namespace
}  // namespace coctilis
