#include "base/process.h"

#include <gtest/gtest.h>
#include <unistd.h>

#include "base/files.h"

namespace coctilis {
namespace {

Ended sh(const std::string& line, double limit = 20) {
  Command command;
  command.argv = {"sh", "-c", line};
  command.limit_seconds = limit;
  return run(command);
}

TEST(Process, GivesExitCodeAndOutput) {
  const Ended ended = sh("echo clay; echo glaze >&2; exit 3");
  EXPECT_EQ(ended.how, Ended::How::exited);
  EXPECT_EQ(ended.code, 3);
  EXPECT_NE(ended.output.find("clay"), std::string::npos);
  EXPECT_NE(ended.output.find("glaze"), std::string::npos);
  EXPECT_EQ(ended.text(), "exit code 3");
}

TEST(Process, ModesOfFilesCountWhereThatIsAskedFor) {
  const files::ScratchFolder place("modes");
  const std::string locked = place.path().string() + "/locked.txt";
  files::write(locked, "clay");
  std::filesystem::permissions(locked, std::filesystem::perms::none);
  Command command;
  command.argv = {"cat", locked};
  command.modes_count = true;
  EXPECT_EQ(run(command).code, 1);
  // What else this program starts keeps the rights that it has.
  command.modes_count = false;
  EXPECT_EQ(run(command).good(), ::geteuid() == 0);
}

TEST(Process, TellsSignals) {
  const Ended ended = sh("kill -SEGV $$");
  EXPECT_EQ(ended.how, Ended::How::signalled);
  EXPECT_EQ(ended.code, 11);
}

TEST(Process, StopsAtItsLimitWithAllItsChildren) {
  const files::ScratchFolder scratch("process");
  const std::string mark = (scratch.path() / "mark").string();
  const Ended ended = sh("(sleep 3; touch " + mark + ") & sleep 30", 0.3);
  EXPECT_EQ(ended.how, Ended::How::timed_out);
  ::usleep(100000);
  EXPECT_FALSE(files::is_file(mark));
}

TEST(Process, ScriptsWithoutAFirstLineAreTheShells) {
  const files::ScratchFolder place("script");
  const std::string script = place.path().string() + "/fire";
  files::write(script, "PEAK=1222; echo \"$PEAK $1 $#\"; exit 4\n");
  Command command;
  command.argv = {script, "cone 6", "x"};
  EXPECT_EQ(run(command).how, Ended::How::not_started);  // it may not be run
  std::filesystem::permissions(script, std::filesystem::perms::owner_all);
  const Ended ended = run(command);
  EXPECT_EQ(ended.output, "1222 cone 6 2\n");
  EXPECT_EQ(ended.code, 4);
}

TEST(Process, AbsentProgramIsNotStarted) {
  Command command;
  command.argv = {"no-such-program-here"};
  const Ended ended = run(command);
  EXPECT_EQ(ended.how, Ended::How::not_started);
  EXPECT_NE(ended.text().find("could not be started"), std::string::npos);
}

TEST(Process, StandardInputIsClosed) { EXPECT_EQ(sh("read line; echo \"got $?\"").output, "got 1\n"); }

TEST(Process, EnvironmentIsChangedAsAsked) {
  Command command;
  command.argv = {"sh", "-c", "echo \"$KILN|${HOME-unset}\""};
  command.environment = {{"KILN", "north"}, {"HOME", std::nullopt}};
  EXPECT_EQ(run(command).output, "north|unset\n");
}

TEST(Process, LongOutputIsCutNotLost) {
  Command command;
  command.argv = {"sh", "-c", "yes brick | head -c 300000; echo tile"};
  command.output_limit = 1000;
  const Ended ended = run(command);
  EXPECT_TRUE(ended.good());
  EXPECT_TRUE(ended.truncated);
  // Of what is too long the beginning and the end say most.
  EXPECT_TRUE(ended.output.starts_with("brick\nbrick\n"));
  EXPECT_TRUE(ended.output.ends_with("brick\ntile\n"));
  EXPECT_NE(ended.output.find("\n[299005 bytes are left out here]\n"), std::string::npos) << ended.output;
  EXPECT_LT(ended.output.size(), 1100U);
}

TEST(Process, SeveralKeepTheirOrder) {
  std::vector<Command> commands(5);
  for (std::size_t i = 0; i < commands.size(); ++i)
    commands[i].argv = {"sh", "-c", "sleep 0." + std::to_string(5 - i) + "; echo " + std::to_string(i)};
  const auto results = run_all(commands, 5);
  for (std::size_t i = 0; i < commands.size(); ++i) EXPECT_EQ(results[i].output, std::to_string(i) + "\n");
}

}  // namespace
}  // namespace coctilis
