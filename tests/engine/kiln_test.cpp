// The folder for results: who may have it, and what is done with what others have left there.
#include "engine/kiln.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/file.h>
#include <sys/wait.h>
#include <unistd.h>

#include "engine/survivors.h"
#include "support.h"

namespace coctilis::engine {
namespace {

class KilnTest : public testing::Test {
 protected:
  Result<OpenedKiln> open(const std::string& tree = "/yard") const {
    return open_kiln(root_, root_ + "/label", "# mark", tree);
  }
  void write(const std::string& name) const { files::write(root_ + "/label/" + name, "x"); }
  [[nodiscard]] bool has(const std::string& name) const { return files::exists(root_ + "/label/" + name); }
  files::ScratchFolder scratch_{"kiln"};
  const std::string root_ = scratch_.path().string() + "/kilns";
};

TEST_F(KilnTest, IsHeldByOneRunAtATime) {
  {
    const auto first = open();
    ASSERT_TRUE(first.ok());
    EXPECT_TRUE(first->note.empty());
    EXPECT_TRUE(has("running"));
    const auto second = open();
    ASSERT_FALSE(second.ok());
    EXPECT_EQ(second.problem().exit, Exit::kiln);
    EXPECT_EQ(second.problem().cause, "process " + std::to_string(::getpid()));
    EXPECT_EQ(files::read(root_ + "/.gitignore"), "# mark\n*\n");
  }
  EXPECT_FALSE(has("running"));
  EXPECT_TRUE(open().ok());
}

TEST_F(KilnTest, ALockThatOnlyTheDyingHoldIsWaitedFor) {
  ASSERT_TRUE(open().ok());
  int locked[2];
  ASSERT_EQ(::pipe(locked), 0);
  const std::string path = root_ + "/label/lock";
  const pid_t child = ::fork();
  if (child == 0) {
    // As a process that a killed run was about to start: it has the lock, and the run is gone.
    const int fd = ::open(path.c_str(), O_RDWR);
    const bool good = ::flock(fd, LOCK_EX | LOCK_NB) == 0 && ::ftruncate(fd, 0) == 0 && ::write(fd, "4194305", 7) == 7;
    if (::write(locked[1], good ? "y" : "n", 1) != 1) ::_exit(1);
    ::usleep(200000);
    ::_exit(0);
  }
  char answer = 'n';
  ASSERT_EQ(::read(locked[0], &answer, 1), 1);
  ASSERT_EQ(answer, 'y');
  EXPECT_TRUE(open().ok());
  ::waitpid(child, nullptr, 0);
  ::close(locked[0]);
  ::close(locked[1]);
}

TEST_F(KilnTest, DoesNotLieAmongOtherThings) {
  files::write(root_ + "/clay.c", "int clay;");
  const auto opened = open();
  ASSERT_FALSE(opened.ok());
  EXPECT_EQ(opened.problem().exit, Exit::usage);
  EXPECT_NE(opened.problem().what.find("no kiln and not empty"), std::string::npos);
  EXPECT_NE(opened.problem().cause.find("clay.c"), std::string::npos);
  EXPECT_FALSE(files::exists(root_ + "/.gitignore"));
  EXPECT_FALSE(files::exists(root_ + "/label"));
  std::filesystem::remove(root_ + "/clay.c");
  EXPECT_TRUE(open().ok());
}

TEST_F(KilnTest, AFileInItsPlaceIsTold) {
  files::write(root_, "precious");
  const auto opened = open();
  ASSERT_FALSE(opened.ok());
  EXPECT_EQ(opened.problem().exit, Exit::usage);
  EXPECT_EQ(files::read(root_), "precious");
}

TEST_F(KilnTest, OfAnotherTreeThatIsStillThereItIsRefused) {
  const std::string tree = scratch_.path().string() + "/tree";
  files::make_folder(tree);
  { ASSERT_TRUE(open(tree).ok()); }
  write("work/brick");
  const auto other = open("/yard");
  ASSERT_FALSE(other.ok());
  EXPECT_EQ(other.problem().exit, Exit::kiln);
  EXPECT_NE(other.problem().cause.find(tree), std::string::npos);
  EXPECT_TRUE(has("work/brick"));
}

TEST_F(KilnTest, WhatWasMadeElsewhereIsTakenAway) {
  { ASSERT_TRUE(open("/yard/that/was/moved").ok()); }
  write("work/brick");
  write("journal");
  write("runs/1/run.json");
  const auto moved = open("/yard");
  ASSERT_TRUE(moved.ok());
  EXPECT_NE(moved->note.find("begun afresh"), std::string::npos);
  EXPECT_FALSE(has("work"));
  EXPECT_FALSE(has("journal"));
  EXPECT_TRUE(has("runs/1/run.json"));
}

// A process that works for a kiln and does not end when asked to.
pid_t start_worker(const std::string& kiln) {
  int ready[2];
  if (::pipe(ready) != 0) return -1;
  const pid_t pid = ::fork();
  if (pid == 0) {
    const std::string variable = "COCTILIS_KILN=" + kiln;
    std::string program = "/bin/sh";
    std::string option = "-c";
    std::string line = "trap '' TERM INT HUP; echo >&" + std::to_string(ready[1]) + "; while :; do sleep 0.05; done";
    char* argv[] = {program.data(), option.data(), line.data(), nullptr};
    std::string entry = variable;
    char* environment[] = {entry.data(), nullptr};
    ::execve(program.c_str(), argv, environment);
    ::_exit(1);
  }
  char byte = 0;
  ::close(ready[1]);
  static_cast<void>(!::read(ready[0], &byte, 1));
  ::close(ready[0]);
  return pid;
}

TEST_F(KilnTest, WhatAKilledRunLeftIsEnded) {
  { ASSERT_TRUE(open().ok()); }
  write("running");
  const pid_t mine = start_worker(root_ + "/label");
  const pid_t other = start_worker(root_ + "/label-of-another");
  const auto left = survivors(root_ + "/label");
  EXPECT_NE(std::find(left.begin(), left.end(), mine), left.end());
  EXPECT_EQ(std::find(left.begin(), left.end(), other), left.end());
  // It is a child of this process here: it has to be waited for to be gone.
  std::thread reaper([&] { ::waitpid(mine, nullptr, 0); });
  EXPECT_TRUE(open().ok());
  reaper.join();
  EXPECT_TRUE(survivors(root_ + "/label").empty());
  EXPECT_EQ(::kill(other, 0), 0);
  ::kill(other, SIGKILL);
  ::waitpid(other, nullptr, 0);
}

TEST_F(KilnTest, ScratchFoldersOfDeadRunsGo) {
  { ASSERT_TRUE(open().ok()); }
  write("running");
  const std::string dead = files::temporary_folder() + "/" + files::scratch_name + "check-999999999-AbCdEf";
  files::make_folder(dead);
  const files::ScratchFolder alive("check");
  ASSERT_TRUE(open().ok());
  EXPECT_FALSE(files::exists(dead));
  EXPECT_TRUE(files::exists(alive.path().string()));
}

// Links that come with a tree lead wherever whoever made it wants.
TEST_F(KilnTest, ALinkInTheTreeIsRefused) {
  const std::string tree = scratch_.path().string();
  files::make_folder(tree + "/elsewhere");
  std::filesystem::create_directory_symlink(tree + "/elsewhere", root_);
  const auto opened = open(tree);
  ASSERT_FALSE(opened.ok());
  EXPECT_EQ(opened.problem().exit, Exit::kiln);
  EXPECT_EQ(opened.problem().what, "the kiln '" + root_ + "' is a link");
  EXPECT_TRUE(files::names_in(tree + "/elsewhere").empty());
  // One that lies elsewhere was put there by its user.
  EXPECT_TRUE(open("/yard").ok());
}

TEST_F(KilnTest, ALabelThatIsALinkIsRefused) {
  files::make_folder(root_);
  files::write(root_ + "/.gitignore", "# mark\n*\n");
  files::make_folder(scratch_.path().string() + "/elsewhere");
  std::filesystem::create_directory_symlink(scratch_.path().string() + "/elsewhere", root_ + "/label");
  const auto opened = open();
  ASSERT_FALSE(opened.ok());
  EXPECT_EQ(opened.problem().what, "the kiln '" + root_ + "/label' is a link");
  EXPECT_TRUE(files::names_in(scratch_.path().string() + "/elsewhere").empty());
}

// A kiln in an archive can say for which tree and place it was made, but not that it was made here.
TEST_F(KilnTest, OneThatCameWithTheTreeIsBegunAfresh) {
  ASSERT_TRUE(open().ok());
  write("journal");
  write("bin/fire");
  std::filesystem::rename(root_ + "/label", root_ + "/copy");
  std::filesystem::copy(root_ + "/copy", root_ + "/label", std::filesystem::copy_options::recursive);
  const auto opened = open();
  ASSERT_TRUE(opened.ok());
  EXPECT_EQ(opened->note, "the kiln was not made here; it is begun afresh");
  EXPECT_FALSE(has("journal"));
  EXPECT_FALSE(has("bin"));
}

}  // namespace
}  // namespace coctilis::engine
