// What programs of a tree see and reach: tried from inside.
#include "base/sandbox.h"

#include <arpa/inet.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>
#include <unistd.h>

#include "base/files.h"
#include "base/own_program.h"
#include "base/process.h"

namespace coctilis {
namespace {

class Sandbox : public testing::Test {
 protected:
  void SetUp() override {
    if (!sandbox::why_not().empty()) GTEST_SKIP() << "this system gives no sandbox: " << sandbox::why_not();
    files::make_folder(root + "/kiln");
    files::make_folder(root + "/home");
    files::write(root + "/home/precious", "kept\n");
  }
  // As a command of a tree that may write to the kiln; `more` is changed before it starts.
  [[nodiscard]] Ended run(const std::string& line, double limit = 20) const {
    Command command;
    command.argv = {"/bin/sh", "-c", line};
    command.folder = root + "/kiln";
    command.limit_seconds = limit;
    command.environment["ROOT"] = root;
    command.writable = {root + "/kiln"};
    return coctilis::run(command);
  }
  // Says "held" when the command line does what it is kept from.
  void keeps_from(const std::string& line) const {
    const Ended ended = run("(" + line + ") && echo got out");
    EXPECT_EQ(ended.output.find("got out"), std::string::npos) << line << ": " << ended.output;
  }
  files::ScratchFolder scratch_{"sandbox"};
  const std::string root = scratch_.path().string();
};

TEST_F(Sandbox, AProgramRunsAsItWouldOutside) {
  EXPECT_EQ(run("echo clay; echo x >file; cat file").output, "clay\nx\n");
  EXPECT_EQ(files::read(root + "/kiln/file"), "x\n");
  const Ended failing = run("exit 3");
  EXPECT_EQ(failing.how, Ended::How::exited);
  EXPECT_EQ(failing.code, 3);
  EXPECT_EQ(run("id -u; pwd").output, std::to_string(::geteuid()) + "\n" + root + "/kiln\n");
}

// Its folder for temporary files is empty, but not when that hides the folder it starts in.
TEST_F(Sandbox, StartsWhereThisProgramIsWhenNothingElseIsSaid) {
  const std::string before = files::working_folder();
  ASSERT_EQ(::chdir((root + "/home").c_str()), 0);
  Command command;
  command.argv = {"/bin/sh", "-c", "cat precious"};
  command.writable = {files::temporary_folder()};
  EXPECT_EQ(coctilis::run(command).output, "kept\n");
  ASSERT_EQ(::chdir(before.c_str()), 0);
}

TEST_F(Sandbox, SharesNoMemoryWithTheNext) {
  EXPECT_EQ(run("echo clay >/dev/shm/glaze && cat /dev/shm/glaze").output, "clay\n");
  EXPECT_EQ(run("ls /dev/shm").output, "");
}

TEST_F(Sandbox, ANetworkOfItsOwnIsOneForAllThatRunInIt) {
  const auto network = [&] { return run("readlink /proc/self/ns/net").output; };
  const std::string usual = network();
  ASSERT_TRUE(usual.starts_with("net:[")) << usual;
  std::string own;
  {
    const sandbox::OwnNetwork one;
    own = network();
    EXPECT_EQ(network(), own);
    EXPECT_NE(run("cat /proc/net/dev").output.find("lo:"), std::string::npos);
  }
  EXPECT_NE(own, usual);
  EXPECT_EQ(network(), usual);
}

TEST_F(Sandbox, LimitsAreToldInAWord) {
  const sandbox::Limits limits{7, 8000000, 9000000, 10};
  EXPECT_EQ(sandbox::to_word(sandbox::limits_of_word(sandbox::to_word(limits))), "7,8000000,9000000,10");
  for (const char* word : {"", "1,2,3", "1,2,3,x", "1,2,3,4,5", "-1,2,3,4"})
    EXPECT_EQ(sandbox::to_word(sandbox::limits_of_word(word)), "0,0,0,0") << word;
  const auto usual = sandbox::usual_limits();
  EXPECT_EQ(sandbox::to_word(sandbox::in_force({})), sandbox::to_word(usual));
  EXPECT_EQ(sandbox::in_force({0, 5000000, 0, 0}).memory, 5000000U);
  EXPECT_EQ(sandbox::in_force({0, 5000000, 0, 0}).seconds, usual.seconds);
}

TEST_F(Sandbox, SignalsAreToldAsTheyAre) {
  for (const int number : {SIGABRT, SIGSEGV, SIGTERM, SIGKILL}) {
    const Ended ended = run("kill -" + std::to_string(number) + " $$");
    EXPECT_EQ(ended.how, Ended::How::signalled) << ended.text();
    EXPECT_EQ(ended.code, number);
  }
}

TEST_F(Sandbox, WhatCannotBeStartedIsToldAsItIs) {
  Command command;
  command.sandboxed = true;
  command.argv = {root + "/nowhere"};
  Ended ended = coctilis::run(command);
  EXPECT_EQ(ended.how, Ended::How::not_started);
  EXPECT_EQ(ended.code, ENOENT);
  files::write(root + "/kiln/text", "no program\n");
  command.argv = {root + "/kiln/text"};
  ended = coctilis::run(command);
  EXPECT_EQ(ended.how, Ended::How::not_started);
  EXPECT_EQ(ended.code, EACCES);
  // One that does not say what reads it is the shell's.
  files::write(root + "/kiln/script", "echo by the shell $1\n");
  ASSERT_EQ(::chmod((root + "/kiln/script").c_str(), 0755), 0);
  command.argv = {root + "/kiln/script", "word"};
  EXPECT_EQ(coctilis::run(command).output, "by the shell word\n");
}

TEST_F(Sandbox, ChangesNothingOutside) {
  for (const char* line :
       {"echo x >$ROOT/home/new", "echo x >>$ROOT/home/precious", "rm $ROOT/home/precious",
        "chmod 777 $ROOT/home/precious", "touch -d 2001-01-01 $ROOT/home/precious", "mv $ROOT/home/precious .",
        "ln -s x $ROOT/home/link", "ln $ROOT/home/precious hard", "mkdir $ROOT/home/folder",
        "ln -s $ROOT/home way && echo x >way/new", "mount -o remount,rw / && echo x >$ROOT/home/new",
        "umount $ROOT/kiln && echo x >$ROOT/kiln/../home/new",
        "unshare -rm sh -c 'mount -o remount,rw / && echo x >$ROOT/home/new'", "echo x >/proc/1/root$ROOT/home/new",
        "chown 1:1 $ROOT/home/precious", "mknod disk b 8 0"})
    keeps_from(line);
  EXPECT_EQ(files::names_in(root + "/home"), std::vector<std::string>{"precious"});
  EXPECT_EQ(files::read(root + "/home/precious"), "kept\n");
}

TEST_F(Sandbox, EndsWithAllThatItStarted) {
  const double begin = now();
  const std::string number = std::to_string(100000 + ::getpid());
  (void)run("setsid sleep " + number + " & (setsid sh -c 'trap \"\" TERM HUP; (sleep " + number +
            " &) &' &) ; nohup sleep " + number + " >/dev/null 2>&1 & sleep 0.2; echo started");
  EXPECT_LT(now() - begin, 10);
  Command look;
  look.argv = {"pgrep", "-f", "sleep " + number};
  EXPECT_EQ(coctilis::run(look).output, "");
}

TEST_F(Sandbox, ReachesNoProcessOutside) {
  const std::string me = std::to_string(::getpid());
  keeps_from("kill -0 " + me);
  keeps_from("test -e /proc/" + me + "/cwd && readlink /proc/" + me + "/cwd | grep -q .");
  EXPECT_EQ(run("kill -9 -1 2>/dev/null; echo alive").output, "alive\n");
}

TEST_F(Sandbox, ReachesNoListener) {
  const int tcp = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  socklen_t size = sizeof address;
  ASSERT_EQ(::bind(tcp, reinterpret_cast<sockaddr*>(&address), size), 0);
  ASSERT_EQ(::listen(tcp, 5), 0);
  ASSERT_EQ(::getsockname(tcp, reinterpret_cast<sockaddr*>(&address), &size), 0);
  keeps_from("bash -c 'exec 3<>/dev/tcp/127.0.0.1/" + std::to_string(ntohs(address.sin_port)) + "'");
  ::close(tcp);
  // A socket in the file system, which no mount keeps anybody from.
  const int local = ::socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0);
  sockaddr_un place{};
  place.sun_family = AF_UNIX;
  const std::string path = root + "/home/listener";
  path.copy(place.sun_path, sizeof place.sun_path - 1);
  ASSERT_EQ(::bind(local, reinterpret_cast<sockaddr*>(&place), sizeof place), 0);
  ASSERT_EQ(::listen(local, 5), 0);
  ::sleep(2);  // what listens is looked for once a second
  keeps_from("test -S $ROOT/home/listener");
  ::close(local);
}

TEST_F(Sandbox, HasALoopbackOfItsOwn) {
  const Ended ended = run("cat /proc/net/dev | tail -n +3 | cut -d: -f1 | tr -d ' '");
  EXPECT_EQ(ended.output, "lo\n");
}

TEST_F(Sandbox, HasNoTerminalAndHarmlessDevices) {
  keeps_from("echo x >/dev/tty");
  keeps_from("ls /dev/pts/0");
  EXPECT_EQ(run("echo x >/dev/null && head -c 4 /dev/zero | wc -c && test -c /dev/urandom && echo good").output,
            "4\ngood\n");
  keeps_from("ls /dev/mem /dev/vda /dev/sda /dev/kmsg | grep -q .");
}

TEST_F(Sandbox, InsideNoneIsMade) {
  EXPECT_FALSE(sandbox::inside());
  EXPECT_EQ(run("cat /proc/1/comm").output, "coctilis-box\n");
}

TEST_F(Sandbox, TemporaryFilesHaveAPlace) {
  Command command;
  command.argv = {"/bin/sh", "-c", "t=$(mktemp) && echo x >$t && echo good"};
  command.folder = root + "/kiln";
  command.writable = {root + "/kiln", "/tmp", "/var/tmp"};
  EXPECT_EQ(coctilis::run(command).output, "good\n");
  command.folder = "/";
  command.writable = {"/tmp"};
  EXPECT_EQ(coctilis::run(command).output, "good\n");
  // It is its own; all that there is in it of others is this program, where it lies there.
  command.argv[2] = "find /tmp -type f | wc -l";
  EXPECT_EQ(coctilis::run(command).output, files::is_below(own_program(), "/tmp") ? "1\n" : "0\n");
}

// Without a sandbox compilers need a place for what they write in between, and may write where the command may.
TEST(PlaceForTemporaryFiles, IsOneThatMayBeWritten) {
  const std::string usual = std::filesystem::temp_directory_path().string();
  EXPECT_EQ(sandbox::place_for_temporary_files({"/yard/work"}), "/yard/work");
  EXPECT_EQ(sandbox::place_for_temporary_files({"/var/tmp", "/yard/work", "/yard/other"}), "/yard/work");
  EXPECT_EQ(sandbox::place_for_temporary_files({"/yard/work", usual}), "") << "where they always are";
  EXPECT_EQ(sandbox::place_for_temporary_files({}), "");
}

TEST_F(Sandbox, ManyAtOnce) {
  std::vector<Command> commands(60);
  for (auto& command : commands) {
    command.argv = {"/bin/sh", "-c", "echo x >>$ROOT/home/precious; echo $((6*7))"};
    command.environment["ROOT"] = root;
    command.merge_errors = false;
    command.writable = {root + "/kiln"};
  }
  for (const auto& ended : run_all(commands, 8)) EXPECT_EQ(ended.output, "42\n") << ended.text() << ended.errors;
  EXPECT_EQ(files::read(root + "/home/precious"), "kept\n");
}

}  // namespace
}  // namespace coctilis
