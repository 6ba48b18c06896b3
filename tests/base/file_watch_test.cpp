// Which files processes ask for.
#include "base/file_watch.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include "base/job_tokens.h"
#include "base/process.h"
#include "base/watched_run.h"
#include "support.h"

namespace coctilis::test {
namespace {

class FileWatchTest : public testing::Test {
 protected:
  FileWatchTest() {
    if (!FileWatch::possible()) can_ = false;
    tree.write("clay", "red\n");
    tree.write("parts/glaze", "blue\n");
  }
  void SetUp() override {
    if (!can_) GTEST_SKIP() << "this kernel cannot watch";
  }
  WatchedFiles run(const std::string& line, WatchFor what = WatchFor::all) const {
    Command command;
    command.argv = {"/bin/sh", "-c", line};
    command.folder = tree.path();
    command.watch = what;
    Ended ended = coctilis::run(command);
    EXPECT_TRUE(ended.good()) << ended.output;
    EXPECT_TRUE(ended.watched);
    return std::move(ended.files);
  }
  [[nodiscard]] std::string at(const std::string& name) const { return tree.path(name); }
  TreeFolder tree;
  bool can_ = true;
};

TEST_F(FileWatchTest, SeesWhatIsReadAndWritten) {
  const auto seen = run("cat clay parts/../parts/glaze > pile; mkdir -p new; mv pile new/pile; rm -f nowhere");
  EXPECT_TRUE(seen.read.contains(at("clay")));
  EXPECT_TRUE(seen.read.contains(at("parts/glaze")));
  EXPECT_FALSE(seen.written.contains(at("clay")));
  EXPECT_TRUE(seen.written.contains(at("pile")));
  EXPECT_TRUE(seen.written.contains(at("new")));
  EXPECT_TRUE(seen.written.contains(at("new/pile")));
  EXPECT_TRUE(seen.programs.contains("/usr/bin/cat") || seen.programs.contains("/bin/cat"));
}

TEST_F(FileWatchTest, SeesWhatIsAskedAboutWhenAsked) {
  const auto seen = run("test -f glaze || test -e parts; ls parts >/dev/null");
  EXPECT_TRUE(seen.asked.contains(at("glaze")));
  EXPECT_TRUE(seen.asked.contains(at("parts")));
  EXPECT_TRUE(seen.listed.contains(at("parts")));
  EXPECT_FALSE(run("test -f glaze || cat clay >/dev/null", WatchFor::opening).asked.contains(at("glaze")));
}

TEST_F(FileWatchTest, NamesCountFromWhereTheProcessStands) {
  const auto seen = run("cd parts && cat glaze >/dev/null && (cd .. && cat clay > /dev/null)");
  EXPECT_TRUE(seen.read.contains(at("parts/glaze")));
  EXPECT_TRUE(seen.read.contains(at("clay")));
}

TEST_F(FileWatchTest, SeesGrandchildrenAndManyAtOnce) {
  std::vector<Command> commands;
  for (int i = 0; i < 12; ++i) {
    tree.write("clay" + std::to_string(i), "x");
    Command command;
    command.argv = {"/bin/sh", "-c", "(sh -c 'cat clay" + std::to_string(i) + " >/dev/null') & wait"};
    command.folder = tree.path();
    command.watch = WatchFor::all;
    commands.push_back(command);
  }
  const auto ended = run_all(commands, 4);
  for (int i = 0; i < 12; ++i) {
    const auto& files = ended[static_cast<std::size_t>(i)].files;
    EXPECT_TRUE(files.read.contains(at("clay" + std::to_string(i))));
    EXPECT_FALSE(files.read.contains(at("clay" + std::to_string((i + 1) % 12))));
  }
}

TEST_F(FileWatchTest, OneWithinAnotherSeesNothingAndTheOuterOneAll) {
  Command command;
  command.argv = {"/bin/sh", "-c", "cat clay"};
  command.folder = tree.path();
  command.watch = WatchFor::opening;
  command.writable = {tree.path()};
  const Ended ended = coctilis::run(command);
  EXPECT_TRUE(ended.watched);
  EXPECT_TRUE(ended.files.read.contains(at("clay")));
}

TEST_F(FileWatchTest, ACompilerAsksForHeadersThatAreNotThere) {
  tree.write("kiln.c", "#include <clay.h>\n");
  tree.write("late/clay.h", "");
  const auto seen = run("cc -Iearly -Ilate -c kiln.c", WatchFor::opening);
  EXPECT_TRUE(seen.read.contains(at("late/clay.h")));
  EXPECT_TRUE(seen.read.contains(at("kiln.c")));
  EXPECT_TRUE(seen.written.contains(at("kiln.o")));
}

class KilledStart : public testing::TestWithParam<bool> {};

TEST_P(KilledStart, DoesNotWaitForEver) {
  // Until it is the program, a started process has what this one has open: this pipe, too. Killed at any moment,
  // nothing may go on holding it.
  for (int round = 0; round < 25; ++round) {
    int held[2];
    ASSERT_EQ(::pipe2(held, O_CLOEXEC), 0);
    const pid_t starter = ::fork();
    if (starter == 0) {
      Command command;
      command.argv = {"/bin/true"};
      command.watch = WatchFor::opening;
      for (;;) {
        if (GetParam())
          static_cast<void>(run_watched(command.argv, "/", {"/tmp"}, {}));
        else
          static_cast<void>(coctilis::run(command));
      }
    }
    ::close(held[1]);
    ::usleep(static_cast<useconds_t>(2000 + 370 * round));
    ::kill(starter, SIGKILL);
    ::waitpid(starter, nullptr, 0);
    pollfd waiting{held[0], POLLIN, 0};
    EXPECT_EQ(::poll(&waiting, 1, 5000), 1) << "something holds on, round " << round;
    ::close(held[0]);
  }
}
INSTANTIATE_TEST_SUITE_P(All, KilledStart, testing::Values(false, true),
                         [](const auto& start) { return start.param ? "OfAScript" : "OfACommand"; });

TEST(WatchedFiles, AreWrittenDownAndReadBack) {
  WatchedFiles files;
  files.read = {"/clay", "/with space"};
  files.asked = {"/asked"};
  files.listed = {"/parts"};
  files.written = {"/made", "/with\nline"};
  files.programs = {"/bin/sh"};
  const auto back = WatchedFiles::from(files.text() + "\n\nq/unknown\nr");
  EXPECT_EQ(back.read, files.read);
  EXPECT_EQ(back.asked, files.asked);
  EXPECT_EQ(back.listed, files.listed);
  EXPECT_EQ(back.written, (std::unordered_set<std::string>{"/made"}));
  EXPECT_EQ(back.programs, files.programs);
}

TEST(WatchedFiles, WhatIsOfTheRunningSystemHasNoSay) {
  for (const char* path : {"/proc/self/maps", "/dev/null", "/etc/ld.so.cache", "/usr/lib/x86_64-linux-gnu/libc.so.6",
                           "/lib64/ld-linux-x86-64.so.2", "/tmp/scratch"})
    EXPECT_FALSE(may_have_a_say(path)) << path;
  for (const char* path :
       {"/usr/bin/sed", "/usr/include/stdio.h", "/usr/lib/libclay.a", "/yard/libclay.so", "/etc/yard.conf"})
    EXPECT_TRUE(may_have_a_say(path)) << path;
}

TEST(JobTokens, AreSharedAndComeBack) {
  const files::ScratchFolder scratch("tokens");
  const std::string path = (scratch.path() / "tokens").string();
  JobTokens::make(path, 3);
  JobTokens first(path);
  {
    JobTokens second(path);
    EXPECT_TRUE(first.take());
    EXPECT_TRUE(second.take());
    EXPECT_TRUE(second.take());
    EXPECT_FALSE(first.take());
    EXPECT_FALSE(second.take());
    EXPECT_EQ(second.taken(), 2U);
    second.give_back_all_but(1);
    EXPECT_TRUE(first.take());
    EXPECT_FALSE(first.take());
  }
  // However the other ended.
  EXPECT_TRUE(first.take());
  JobTokens none((scratch.path() / "nowhere").string());
  EXPECT_FALSE(none.take());
}

}  // namespace
}  // namespace coctilis::test
