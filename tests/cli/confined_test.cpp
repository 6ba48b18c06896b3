// What a tree's commands do not get, what its user can allow them, and what their results may be.
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/sandbox.h"
#include "support.h"

namespace coctilis::test {
namespace {

class ConfinedTree : public testing::Test {
 protected:
  void SetUp() override {
    if (!sandbox::why_not().empty()) GTEST_SKIP() << "this system gives no sandbox: " << sandbox::why_not();
  }
  [[nodiscard]] Said run(std::vector<std::string> words) const {
    words.insert(words.begin() + 1, {tree.path(), "--kiln", tree.kiln()});
    return coctilis(words);
  }
  static bool has(const Said& said, const std::string& text) { return said.all().find(text) != std::string::npos; }
  TreeFolder tree;
};

// Whoever is killed himself can end nothing any more; what he has started notices.
TEST_F(ConfinedTree, WhatAKilledRunHasStartedEnds) {
  tree.write("Makefile", "all:\n\twhile :; do date +%N >alive; sleep 0.05; done\n");
  Command command;
  const char* program = std::getenv("COCTILIS_PROGRAM");
  ASSERT_NE(program, nullptr);
  command.argv = {program, "build", tree.path(), "--kiln", tree.kiln()};
  auto process = Process::start(command);
  std::string alive;
  for (int i = 0; i < 600 && !files::exists(alive); ++i) {
    static_cast<void>(process.poll());
    // There is no kiln yet.
    alive = files::is_folder(tree.kiln()) ? tree.label_folder() + "/work/alive" : "";
    ::usleep(50'000);
  }
  ASSERT_TRUE(files::exists(alive));
  process.signal(SIGKILL);
  while (!process.poll()) ::usleep(10'000);
  // It is looked at once a second.
  std::string last;
  bool ended = false;
  for (int i = 0; i < 40 && !ended; ++i) {
    last = files::read(alive).value_or("");
    ::usleep(500'000);
    ended = files::read(alive).value_or("") == last;
  }
  EXPECT_TRUE(ended);
}

// Something that listens on this machine, for as long as it lives.
class Listener {
 public:
  Listener() : fd_(::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0)) {
    sockaddr_in address{};
    address.sin_family = AF_INET;
    address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    socklen_t length = sizeof address;
    if (::bind(fd_, reinterpret_cast<sockaddr*>(&address), sizeof address) != 0 || ::listen(fd_, 5) != 0 ||
        ::getsockname(fd_, reinterpret_cast<sockaddr*>(&address), &length) != 0)
      ADD_FAILURE() << "nothing can listen here";
    port_ = ntohs(address.sin_port);
  }
  ~Listener() { ::close(fd_); }
  Listener(const Listener&) = delete;
  Listener& operator=(const Listener&) = delete;
  // A command of the shell that reaches it.
  [[nodiscard]] std::string asked() const {
    return "python3 -c 'import socket; socket.create_connection((\"127.0.0.1\", " + std::to_string(port_) + "))'";
  }

 private:
  int fd_;
  int port_ = 0;
};

TEST_F(ConfinedTree, TheNetworkIsRefusedAndSaid) {
  const Listener listener;
  tree.write("Makefile", "all:\n\t" + listener.asked() + "\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 5);
  EXPECT_TRUE(has(said, "it wanted to reach the network, which commands of a tree do not get")) << said.all();
  EXPECT_TRUE(has(said, "--trust")) << said.all();
  EXPECT_EQ(tree.record()["sandbox"]["network"], false);
}

TEST_F(ConfinedTree, TheNetworkCanBeAllowed) {
  const Listener listener;
  tree.write("Makefile", "all:\n\t" + listener.asked() + "\n");
  const auto said = run({"build", "--trust"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(has(said, "commands of the tree may use the network (allowed by --trust)")) << said.all();
  EXPECT_EQ(tree.record()["sandbox"]["network"], true);
  EXPECT_EQ(tree.record()["sandbox"]["allowed_by"], "--trust");
}

// What comes with the tree is no word of its user's.
TEST_F(ConfinedTree, ATreeOnlyAsks) {
  const Listener listener;
  tree.write("Makefile", "all:\n\t" + listener.asked() + "\n");
  tree.write("coctilis.toml", "[sandbox]\nnetwork = true\ndevices = [\"/dev/kmsg\"]\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 5);
  EXPECT_TRUE(has(said, "the tree asks for the network, /dev/kmsg, which its commands do not get")) << said.all();
  EXPECT_EQ(tree.record()["sandbox"]["allowed_by"], "");
  // A file that is named on the command line is.
  files::write(tree.scratch() + "/mine.toml", "[sandbox]\nnetwork = true\n");
  std::filesystem::remove(tree.path("coctilis.toml"));
  EXPECT_EQ(run({"build", "--config", tree.scratch() + "/mine.toml"}).exit, 0);
  EXPECT_EQ(tree.record()["sandbox"]["allowed_by"], "--config");
  // But one that says something else does not answer for the tree.
  tree.write("coctilis.toml", "[sandbox]\nnetwork = true\n");
  tree.write("Makefile", "all:\n\t" + listener.asked() + " && true\n");
  files::write(tree.scratch() + "/mine.toml", "[options]\nCONE = 6\n");
  EXPECT_EQ(run({"build", "--config", tree.scratch() + "/mine.toml"}).exit, 5);
  EXPECT_EQ(tree.record()["sandbox"]["allowed_by"], "");
}

TEST_F(ConfinedTree, DevicesAreThereWhenAllowed) {
  if (!files::exists("/dev/tty")) GTEST_SKIP() << "there is no device to try it with";
  tree.write("Makefile", "all:\n\ttest -c /dev/tty\n");
  tree.write("coctilis.toml", "[sandbox]\ndevices = [\"/dev/tty\"]\n");
  EXPECT_EQ(run({"build"}).exit, 5);
  EXPECT_EQ(run({"build", "--trust"}).exit, 0);
}

TEST_F(ConfinedTree, OnlyDevicesCanBeAskedFor) {
  tree.write("Makefile", "all:\n");
  for (const char* device : {"/home", "/dev/../home", "dri"}) {
    tree.write("coctilis.toml", std::string("[sandbox]\ndevices = [\"") + device + "\"]\n");
    EXPECT_EQ(run({"build", "--trust"}).exit, 2) << device;
  }
}

TEST_F(ConfinedTree, ALowerLimitCountsAndIsTheCause) {
  struct {
    const char* key;
    const char* recipe;
    const char* cause;
  } const tries[] = {
      {"file-size = \"2 MB\"", "head -c 3000000 /dev/zero >$@", "it wanted to write a file of more than 2.0 MB"},
      {"time = \"1 s\"", "sleep 60", "it took longer than 1.0 s"},
      {"memory = \"50 MB\"", "x=$$(head -c 200000000 /dev/zero | tr '\\0' a); sleep 60", "it took more than 50 MB of"}};
  for (const auto& one : tries) {
    tree.write("Makefile", std::string("all: tile\ntile:\n\t") + one.recipe + "\n");
    tree.write("coctilis.toml", std::string("[sandbox]\n") + one.key + "\n");
    const auto said = run({"build", "--rerun"});
    EXPECT_EQ(said.exit, 5) << one.key << said.all();
    EXPECT_TRUE(has(said, one.cause)) << said.all();
    EXPECT_TRUE(has(said, "in [sandbox]")) << said.all();
  }
}

TEST_F(ConfinedTree, AHigherLimitIsAskedFor) {
  // In blocks of 512 bytes (POSIX.1-2024, ulimit).
  tree.write("Makefile", "all:\n\ttest $$(ulimit -f) -gt 200000000\n");
  tree.write("coctilis.toml", "[sandbox]\nfile-size = \"200 GB\"\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 5);
  EXPECT_TRUE(has(said, "the tree asks for files of 200 GB, which its commands do not get")) << said.all();
  EXPECT_EQ(tree.record()["sandbox"]["limits"]["file_bytes"], 64000000000ULL);
  // One limit that the user tells does not answer for another of the tree's.
  files::write(tree.scratch() + "/mine.toml", "[sandbox]\ntime = \"48 h\"\n");
  EXPECT_EQ(run({"build", "--config", tree.scratch() + "/mine.toml"}).exit, 5);
  EXPECT_EQ(tree.record()["sandbox"]["limits"]["seconds"], 24 * 3600);
  EXPECT_EQ(run({"build", "--trust"}).exit, 0);
  EXPECT_EQ(tree.record()["sandbox"]["limits"]["file_bytes"], 200000000000ULL);
}

TEST_F(ConfinedTree, ALimitIsAnAmount) {
  tree.write("Makefile", "all:\n");
  for (const char* key : {"memory = 8", "memory = \"8\"", "file-size = \"1 kB\"", "time = \"0 s\"", "processes = 2"}) {
    tree.write("coctilis.toml", std::string("[sandbox]\n") + key + "\n");
    EXPECT_EQ(run({"build"}).exit, 2) << key;
  }
}

TEST_F(ConfinedTree, ARefusedPathIsSaid) {
  tree.write("Makefile", "all:\n\techo fired >" + tree.path("log") + "\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 5);
  EXPECT_TRUE(has(said, tree.path("log"))) << said.all();
  EXPECT_FALSE(files::exists(tree.path("log")));
}

TEST_F(ConfinedTree, AResultThatLeadsOutIsAnError) {
  files::write(tree.scratch() + "/precious", "kept\n");
  tree.write("Makefile", "all: a\na:\n\tln -s " + tree.scratch() + "/precious a\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 5);
  EXPECT_TRUE(has(said, "what it made leads out of the kiln: a is a link to " + tree.scratch() + "/precious"))
      << said.all();
  // One that leads into the tree, the kiln, the system or a prefix that the user points at does not.
  tree.write("clay", "red\n");
  tree.write("Makefile",
             "all: a b c\na:\n\tln -s " + tree.path("clay") + " a\nb:\n\tln -s a b\nc:\n\tln -s /usr/bin/env c\n");
  const auto good = run({"build"});
  EXPECT_EQ(good.exit, 0) << good.all();
  files::write(tree.scratch() + "/prefix/lib/clay", "");
  tree.write("Makefile", "all: d\nd:\n\tln -s " + tree.scratch() + "/prefix/lib/clay d\n");
  EXPECT_EQ(run({"build", "--with", tree.scratch() + "/prefix"}).exit, 0);
}

// What a make prints that a recipe has started may be what the recipe writes.
TEST_F(ConfinedTree, WhatAnInnerMakePrintsIsWhole) {
  tree.write("Makefile", "all:\n\t$(MAKE) -s told >told.txt\ntold:\n\t@head -c 20000000 /dev/zero\n");
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(std::filesystem::file_size(tree.label_folder() + "/work/told.txt"), 20000000U);
}

// What cannot be judged as a whole is not judged by what is left of it.
TEST_F(ConfinedTree, ATestThatPrintsTooMuchIsNotJudgedByAPart) {
  tree.write(
      "CMakeLists.txt",
      "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nenable_testing()\n"
      "add_test(NAME t COMMAND sh -c \"head -c 6000000 /dev/zero | tr '\\\\0' x; echo; echo cracked; head -c 6000000 "
      "/dev/zero | tr '\\\\0' x\")\nset_tests_properties(t PROPERTIES FAIL_REGULAR_EXPRESSION cracked)\n");
  const auto said = run({"bringup"});
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_TRUE(has(said, "its output cannot be judged")) << said.all();
}

// A recipe that leads parts of its kiln astray harms neither what lies there nor the next run.
TEST_F(ConfinedTree, WhatIsKeptOfARunLiesWhereNoCommandWrites) {
  files::write(tree.scratch() + "/precious/mark", "kept\n");
  std::string evil;
  for (const char* part : {"bin", "runs", "lock", "place", "kept"}) {
    const std::string path = "../" + std::string(part);
    evil += "\t-rm -rf " + path + "; ln -sfn " + tree.scratch() + "/precious " + path + "\n";
  }
  tree.write("Makefile", "all: fire\nfire: fire.c\n" + evil + "\tcc -o fire fire.c\n");
  tree.write("fire.c", "int main(void) { return 0; }\n");
  EXPECT_EQ(run({"bringup"}).exit, 0);
  tree.write("fire.c", "int main(void) { return 0; } int more;\n");
  EXPECT_EQ(run({"bringup"}).exit, 0);
  for (const char* part : {"bin", "runs", "lock", "place"})
    EXPECT_FALSE(files::is_link(tree.label_folder() + "/" + part)) << part;
  EXPECT_EQ(files::names_in(tree.scratch() + "/precious"), std::vector<std::string>{"mark"});
}

TEST_F(ConfinedTree, WhatLiesBehindAWorkFolderThatIsALinkStays) {
  files::write(tree.scratch() + "/precious/main.c", "kept\n");
  tree.write("Makefile", "all: fire\nfire: part/main.c\n\tcc -o fire part/main.c\n\trm -rf part; ln -s " +
                             tree.scratch() + "/precious part\n");
  tree.write("part/main.c", "int main(void) { return 0; }\n");
  static_cast<void>(run({"build"}));
  tree.write("part/main.c", "int main(void) { return 0; } int more;\n");
  static_cast<void>(run({"build"}));
  EXPECT_EQ(files::read(tree.scratch() + "/precious/main.c"), "kept\n");
}

TEST_F(ConfinedTree, CleaningGoesThroughNoLink) {
  tree.write("Makefile", "all:\n\t@true\n");
  files::write(tree.scratch() + "/precious/.gitignore", "kept\n");
  std::filesystem::create_directory_symlink(tree.scratch() + "/precious", tree.path("kiln"));
  EXPECT_EQ(coctilis({"build", tree.path()}).exit, 0) << "the usual place is taken, there is another";
  files::write(tree.scratch() + "/other/.gitignore", files::read(tree.path(".kiln/.gitignore")).value_or(""));
  files::write(tree.scratch() + "/other/label/lock", "");
  std::filesystem::remove_all(tree.path("kiln"));
  std::filesystem::create_directory_symlink(tree.scratch() + "/other", tree.path("kiln"));
  const auto said = coctilis({"clean", tree.path(), "--yes"});
  EXPECT_EQ(said.exit, 7) << said.all();
  EXPECT_TRUE(files::is_file(tree.scratch() + "/other/label/lock"));
  EXPECT_EQ(coctilis({"build", tree.path()}).exit, 7);
}

struct Endless {
  const char* name;
  const char* file;
  const char* text;
  const char* says;
};
class EndlessTree : public ConfinedTree, public testing::WithParamInterface<Endless> {};

TEST_P(EndlessTree, IsToldAsSuch) {
  tree.write(GetParam().file, GetParam().text);
  const auto said = run({"build"});
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_TRUE(has(said, GetParam().says)) << said.all();
}

constexpr const char* doubling =
    "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nset(x a)\nforeach(i RANGE 60)\n  set(x "
    "${x};${x})\nendforeach()\n";
INSTANTIATE_TEST_SUITE_P(
    Trees, EndlessTree,
    testing::Values(Endless{"ListThatDoubles", "CMakeLists.txt", doubling, "words"},
                    Endless{"OutputWhileReading", "CMakeLists.txt",
                            "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nexecute_process(COMMAND head -c "
                            "200000000 /dev/zero OUTPUT_VARIABLE x)\n",
                            "says more than"},
                    Endless{"OutputOfShell", "Makefile", "X := $(shell head -c 200000000 /dev/zero)\nall:\n",
                            "says more than"},
                    Endless{"WordsThatDouble", "Makefile",
                            "X = $(Y) $(Y)\nY = $(Z) $(Z)\nZ := aaaaaaaa\n"
                            "define twice\nZ := $(X)\n$(eval Z := $(X) $(X))\nendef\n"
                            "$(foreach i,1 2 3 4 5 6 7 8 9 10 11 12 13 14 15,$(eval $(value twice)))\nall:\n",
                            "grows beyond"}),
    [](const testing::TestParamInfo<Endless>& of) { return of.param.name; });

}  // namespace
}  // namespace coctilis::test
