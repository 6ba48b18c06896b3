// Programs that are watched, and kept from writing elsewhere.
#include "base/watched_run.h"

#include <gtest/gtest.h>

#include <csignal>

#include "base/files.h"

namespace coctilis {
namespace {

class WatchedRunTest : public testing::Test {
 protected:
  WatchedRun sh(const std::string& line, const WatchedRunObserver& observer = {}) {
    // What it prints is no part of the test's own output.
    return run_watched({"/bin/sh", "-c", "exec >out.txt 2>&1; " + line}, folder(), {folder()}, observer);
  }
  [[nodiscard]] std::string folder() const { return place_.path().string(); }
  // The programs by their names, with their ends.
  static std::vector<std::string> named(const WatchedRun& run) {
    std::vector<std::string> out;
    for (const auto& program : run.programs)
      out.push_back(std::filesystem::path(program.argv.at(0)).filename().string() + " " + std::to_string(program.exit));
    return out;
  }

 private:
  files::ScratchFolder place_{"watched"};
};

TEST_F(WatchedRunTest, EveryProgramIsSeenWithItsEnd) {
  const auto run = sh("/bin/true; /bin/false; /bin/sh -c 'exit 3'; exit 4");
  EXPECT_EQ(run.failure, "");
  EXPECT_EQ(run.exit, 4);
  EXPECT_EQ(named(run), (std::vector<std::string>{"sh 4", "true 0", "false 1", "sh 3"}));
  EXPECT_EQ(run.programs[0].parent, -1);
  for (std::size_t i = 1; i < run.programs.size(); ++i) EXPECT_EQ(run.programs[i].parent, 0);
}

TEST_F(WatchedRunTest, WordsFoldersAndTheEnvironmentAreKept) {
  files::make_folder(folder() + "/parts");
  const auto run = sh("cd parts && CONE=6 /bin/true 'a b' '' c");
  ASSERT_EQ(run.programs.size(), 2U);
  EXPECT_EQ(run.programs[1].argv, (std::vector<std::string>{"/bin/true", "a b", "", "c"}));
  EXPECT_EQ(run.programs[1].folder, folder() + "/parts");
  EXPECT_EQ(run.programs[1].environment.at("CONE"), "6");
  EXPECT_FALSE(run.programs[1].environment.contains("HOME"));  // as the watcher has it
}

TEST_F(WatchedRunTest, GrandchildrenKnowTheirParents) {
  const auto run = sh("/bin/sh -c '/bin/true; /bin/true' ; /bin/true");
  ASSERT_EQ(run.programs.size(), 5U);
  EXPECT_EQ(run.programs[2].parent, 1);
  EXPECT_EQ(run.programs[3].parent, 1);
  EXPECT_EQ(run.programs[4].parent, 0);
}

TEST_F(WatchedRunTest, ASignalIsAnEnd) {
  const auto run = sh("/bin/sh -c 'kill -SEGV $$'; exit 0");
  ASSERT_EQ(run.programs.size(), 2U);
  EXPECT_EQ(run.programs[1].exit, 128 + SIGSEGV);
  EXPECT_EQ(run.exit, 0);
}

TEST_F(WatchedRunTest, TheObserverHearsOfEach) {
  std::vector<std::string> heard;
  WatchedRunObserver observer;
  observer.started = [&](const WatchedRun&, std::size_t i) { heard.push_back("+" + std::to_string(i)); };
  observer.ended = [&](const WatchedRun&, std::size_t i) { heard.push_back("-" + std::to_string(i)); };
  (void)sh("/bin/true; /bin/true", observer);
  EXPECT_EQ(heard, (std::vector<std::string>{"+0", "+1", "-1", "+2", "-2", "-0"}));
}

TEST_F(WatchedRunTest, WritingElsewhereIsRefused) {
  const files::ScratchFolder other("elsewhere");
  const auto run = sh("echo in >in.txt; echo out >" + other.path().string() + "/out.txt; echo x >/dev/null");
  if (!run.confined) GTEST_SKIP() << "the kernel cannot do that";
  EXPECT_TRUE(files::is_file(folder() + "/in.txt"));
  EXPECT_FALSE(files::is_file(other.path().string() + "/out.txt"));
  EXPECT_EQ(run.exit, 0);
}

TEST_F(WatchedRunTest, NothingIsLeftRunning) {
  const auto run = sh("sleep 100 & echo $! >pid; exit 0");
  EXPECT_EQ(run.exit, 0);
  const int pid = std::atoi(files::read(folder() + "/pid").value_or("0").c_str());
  ASSERT_GT(pid, 0);
  // It is gone, or dead and not yet asked for its end.
  const auto lives = [&] {
    const auto state = files::read("/proc/" + std::to_string(pid) + "/stat");
    return state && state->find(") Z ") == std::string::npos;
  };
  for (int i = 0; i < 200 && lives(); ++i) ::usleep(10000);
  EXPECT_FALSE(lives());
}

TEST_F(WatchedRunTest, WhatIsNotThereIsTold) {
  EXPECT_NE(run_watched({"/no/such/press"}, folder(), {folder()}).failure.find("/no/such/press"), std::string::npos);
  EXPECT_NE(run_watched({}, folder(), {folder()}).failure, "");
  EXPECT_NE(run_watched({"/bin/true"}, folder() + "/none", {folder()}).failure.find("could not be started"),
            std::string::npos);
}

}  // namespace
}  // namespace coctilis
