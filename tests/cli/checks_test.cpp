// Checks of all kinds, on the demo tree that shows them and on trees that are broken on purpose.
#include "support.h"

namespace coctilis::test {
namespace {

class Office : public DrivenTree {
 protected:
  Office() {
    for (const auto& entry : std::filesystem::recursive_directory_iterator(TEST_SOURCE "/demo/yard-office")) {
      if (!entry.is_regular_file()) continue;
      const std::string path = entry.path().string();
      tree.write(files::below(path, TEST_SOURCE "/demo/yard-office"), files::read(path).value_or(""));
    }
  }
  [[nodiscard]] nlohmann::json check(const std::string& name) const {
    const auto whole = tree.record();
    for (const auto& one : whole["checks"]) {
      if (one["name"] == name) return one;
    }
    return {{"verdict", "none"}, {"reason", "no such check"}, {"cause", ""}, {"remedy", ""}, {"numbers", nullptr}};
  }
  // Another text in place of one in a file of the tree.
  void change(const std::string& file, const std::string& from, const std::string& to) const {
    std::string text = tree.read(file);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos) << from;
    tree.write(file, text.replace(at, from.size(), to));
  }
};

TEST_F(Office, AllItsChecksPass) {
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(check("prices")["reason"].get<std::string>().find("listens on port 4711"), std::string::npos);
  EXPECT_NE(check("prices")["reason"].get<std::string>().find("4 probes answered; stopped"), std::string::npos);
  EXPECT_EQ(check("the client asks for a tile")["verdict"], "passed");
  EXPECT_NE(check("a firing curve")["reason"].get<std::string>().find("the same numbers; as recorded"),
            std::string::npos);
  EXPECT_EQ(check("orders are added up")["reason"], "3 steps one after the other");
  EXPECT_FALSE(check("the watch").contains("error_lines"));
  EXPECT_EQ(tree.read("data/curve.json"), files::read(TEST_SOURCE "/demo/yard-office/data/curve.json").value_or(""));
}

TEST_F(Office, TheListShowsThemAll) {
  ASSERT_EQ(run("build").exit, 0);
  const auto said = run("smoke", {"--list"});
  EXPECT_EQ(said.exit, 0);
  for (const char* text :
       {"prices", "price-server 4711 prices.txt", "the client asks for a tile", "with prices", "kiln-watch starts"})
    EXPECT_NE(said.all().find(text), std::string::npos) << text << "\n" << said.all();
  const auto listed = run("smoke", {"--list", "--json"}).json();
  EXPECT_EQ(listed.size(), 18U);
  EXPECT_EQ(listed[12]["kind"], "service");
}

TEST_F(Office, ACheckMayBeCalledLikeAFolder) {
  const auto said = coctilis({"smoke", "prices", "--kiln", tree.kiln()}, {}, tree.path());
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check("prices")["verdict"], "passed");
  EXPECT_FALSE(files::exists(tree.path("prices/kiln")));
}

TEST_F(Office, AServerThatDoesNotFindItsList) {
  change("coctilis.toml", "files = [\"data/prices.txt\"]\n", "");
  EXPECT_EQ(run("smoke", {"prices"}).exit, 6);
  const auto failed = check("prices");
  EXPECT_EQ(failed["verdict"], "failed");
  EXPECT_EQ(failed["cause"],
            "it asked for 'prices.txt' in its working folder; there is one in the tree, data/prices.txt");
  EXPECT_EQ(failed["remedy"], "put it there: files = [\"data/prices.txt\"]");
  const auto why = coctilis({"why", "failure", tree.path(), "--kiln", tree.kiln()});
  EXPECT_NE(why.all().find("fix: put it there"), std::string::npos) << why.all();
  EXPECT_NE(why.all().find("price-server: cannot read prices.txt"), std::string::npos) << why.all();
}

TEST_F(Office, NumbersThatAreOthersNow) {
  ASSERT_EQ(run("bringup").exit, 0);
  change("firing/curve.c", "1202 * pow", "1203 * pow");
  const auto said = run("smoke", {"a firing curve"});
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("peak is 1223.000000, recorded 1222.000000"), std::string::npos) << said.all();
  const auto numbers = check("a firing curve")["numbers"];
  EXPECT_EQ(numbers[1]["before"], "1222.000000");
  EXPECT_EQ(numbers[1]["agrees"], false);
  EXPECT_EQ(run("smoke", {"a firing curve", "--record"}).exit, 0);
  EXPECT_NE(tree.read("data/curve.json").find("1223.000000"), std::string::npos);
  EXPECT_EQ(run("smoke", {"a firing curve"}).exit, 0);
}

TEST_F(Office, ALogWithALineThatIsNotKnown) {
  change("coctilis.toml", "benign = [\"sensor 3 does not answer\"]\n", "");
  const auto said = run("smoke", {"the watch"});
  EXPECT_EQ(said.exit, 0);
  EXPECT_NE(said.all().find("passed, and prints: error: sensor 3 does not answer"), std::string::npos) << said.all();
  change("data/sensors.txt", "2 1194", "2 -1");
  EXPECT_EQ(run("smoke", {"the watch"}).exit, 6);
  EXPECT_EQ(check("the watch")["reason"], "its output has what is forbidden: error: sensor 2 does not answer");
}

TEST_F(Office, ThoseThatFailedAreMadeAgain) {
  change("coctilis.toml", "tile costs 120", "tile costs 99");
  EXPECT_EQ(run("bringup").exit, 6);
  EXPECT_EQ(run("smoke", {"--failed"}).exit, 6);
  EXPECT_EQ(tree.record()["checks"].size(), 1U);
  change("coctilis.toml", "tile costs 99", "tile costs 120");
  EXPECT_EQ(run("smoke", {"--failed"}).exit, 0);
  EXPECT_EQ(tree.record()["checks"].size(), 1U);
  const auto said = run("smoke", {"--failed"});
  EXPECT_EQ(said.exit, 0);
  EXPECT_NE(said.all().find("no check failed the last time"), std::string::npos) << said.all();
  EXPECT_EQ(tree.record()["checks"].size(), 0U);
}

TEST_F(Office, TheResultsAsXml) {
  change("coctilis.toml", "tile costs 120", "tile costs <99>");
  EXPECT_EQ(run("bringup").exit, 6);
  const std::string path = tree.label_folder() + "/runs/latest/smoke.xml";
  Command command;
  command.argv = {"xmllint", "--noout", "--schema", TEST_SOURCE "/tests/data/junit-4.xsd", path};
  const Ended ended = coctilis::run(command);
  EXPECT_TRUE(ended.good()) << ended.output;
  const std::string text = files::read(path).value_or("");
  EXPECT_NE(text.find("failures=\"1\""), std::string::npos) << text;
  EXPECT_NE(text.find("tile costs &lt;99>"), std::string::npos) << text;
}

class Checked : public DrivenTree {
 protected:
  // One program of that source, and what coctilis.toml asks of it.
  void make(const std::string& source, const std::string& toml) const {
    tree.write("kiln.c", source);
    tree.write("coctilis.toml", "[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"kiln.c\"]\n" + toml);
  }
  // How often the program has been started, as it notes in a file that the check may write to.
  Said smoke(const std::vector<std::string>& more = {}) { return run("smoke", more); }
};

// The end that closes a connection first keeps the port for a while (RFC 9293, 3.6.1, TIME-WAIT): a server that does
// not ask for it anyway could not have it in the check behind.
TEST_F(Checked, TheSamePortIsFreeInTheNextCheck) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(brickyard C)\nadd_executable(yard yard.c)\n");
  tree.write("yard.c",
             "#include <arpa/inet.h>\n#include <stdio.h>\n#include <unistd.h>\n"
             "int main(void) {\n"
             "  struct sockaddr_in at = {.sin_family = AF_INET, .sin_port = htons(4711)};\n"
             "  int fd = socket(AF_INET, SOCK_STREAM, 0);\n"
             "  if (bind(fd, (struct sockaddr*)&at, sizeof at) != 0) { perror(\"bind\"); return 1; }\n"
             "  listen(fd, 8);\n"
             "  for (;;) {\n    int one = accept(fd, NULL, NULL);\n    write(one, \"warm\\n\", 5);\n"
             "    shutdown(one, SHUT_WR);\n    usleep(100000);\n    close(one);\n  }\n}\n");
  std::string services;
  for (const char* name : {"north", "south", "east"})
    services += std::string("[[service]]\nname = \"") + name + "\"\nrun = [\"yard\"]\nready = { port = 4711 }\n" +
                "probe = [{ connect = \"localhost:4711\", expect = \"warm\" }]\n";
  tree.write("coctilis.toml", services);
  const auto said = run("bringup", {"--jobs", "1"});
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Checked, WhatFailsNowAndThenIsFlaky) {
  make(
      "#include <stdio.h>\nint main(void) { FILE* f = fopen(\"turn\", \"r+\"); if (!f) f = fopen(\"turn\", \"w+\"); "
      "int n = 0;"
      "fscanf(f, \"%d\", &n); rewind(f); fprintf(f, \"%d\", n + 1); return n % 3 == 2; }\n",
      "[[smoke]]\nname = \"turns\"\nrun = [\"kiln\"]\nfolder = \"state\"\n");
  tree.write("state/keep", "");
  const auto said = smoke({"turns", "--repeat", "9"});
  EXPECT_EQ(said.exit, 6);
  EXPECT_NE(said.all().find("flaky: failed 3 of 9 times"), std::string::npos) << said.all();
  EXPECT_FALSE(files::exists(tree.path("state/turn"))) << "what it writes goes into a copy";
}

TEST_F(Checked, TheSameProgramIsStartedOnce) {
  const auto output = [&] {
    const auto record = tree.record();
    for (const auto& check : record["checks"]) {
      if (check["name"] == "kiln starts") return check["output"].get<std::string>();
    }
    return std::string("not checked");
  };
  // It never prints the same twice.
  make(
      "#include <stdio.h>\n#include <time.h>\nint main(void) { struct timespec t; clock_gettime(CLOCK_REALTIME, &t);"
      "printf(\"kiln %ld %ld\\n\", (long)t.tv_sec, t.tv_nsec); return 0; }\n",
      "");
  ASSERT_EQ(smoke().exit, 0);
  const std::string first = output();
  EXPECT_EQ(smoke().exit, 0);
  EXPECT_EQ(output(), first) << "it was started again";
  tree.write("kiln.c", "int main(void) { return *(volatile int*)0; }\n");
  EXPECT_EQ(smoke().exit, 6) << "another program is started";
  EXPECT_EQ(smoke().exit, 6) << "a failure is not kept";
}

TEST_F(Checked, DataThatIsGoneIsNoticed) {
  tree.write("data/cones", "6\n");
  make(
      "#include <stdio.h>\nint main(int c, char** v) { (void)c; (void)v; FILE* f = fopen(DATA, \"r\"); if (!f) { "
      "printf(\"cannot open %s\\n\", DATA); return 1; }"
      " puts(\"kiln\"); return 0; }\n",
      "");
  tree.write("coctilis.toml",
             "[[target]]\nname = \"kiln\"\nkind = \"program\"\nsources = [\"kiln.c\"]\ndefine = ['DATA=\"" +
                 tree.path("data/cones") + "\"']\n");
  ASSERT_EQ(smoke().exit, 0) << smoke().all();
  ASSERT_EQ(smoke().exit, 0);
  std::filesystem::remove(tree.path("data/cones"));
  EXPECT_EQ(smoke().exit, 0) << "one that is not there as long as nothing is installed excuses it";
  const auto record = tree.record();
  for (const auto& check : record["checks"]) {
    if (check["name"] != "kiln starts") continue;
    EXPECT_EQ(check["verdict"], "skipped") << check;
  }
}

TEST_F(Checked, OneMissingLibraryIsOneFailure) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_library(clay SHARED "
             "clay.c)\nadd_executable(kiln kiln.c)\n"
             "target_link_libraries(kiln clay)\nadd_custom_command(TARGET kiln POST_BUILD COMMAND ${CMAKE_COMMAND} -E "
             "rm -f $<TARGET_FILE:clay>)\n");
  tree.write("clay.c", "int clay(void) { return 0; }\n");
  tree.write("kiln.c", "int clay(void); int main(void) { return clay(); }\n");
  tree.write("coctilis.toml", "[[smoke]]\nrun = [\"kiln\"]\n");
  const auto said = smoke();
  const auto record = tree.record();
  int failed = 0;
  for (const auto& check : record["checks"]) failed += check["verdict"] == "failed" ? 1 : 0;
  EXPECT_EQ(failed, 1) << said.all();
  EXPECT_NE(said.all().find("does not find libclay.so"), std::string::npos) << said.all();
}

TEST_F(Checked, WhereItHangsIsToldByTheDebugger) {
  make(
      "#include <unistd.h>\n__attribute__((noinline)) void wait_for_heat(void) { for (;;) sleep(1); }\n"
      "int main(int c, char** v) { (void)v; if (c > 1) return 0; wait_for_heat(); }\n",
      "[[smoke]]\nname = \"hangs\"\nrun = [\"kiln\"]\nexpect = { within = \"1 s\" }\n");
  const auto said = smoke({"hangs", "--debug", "--variant", "debug"});
  EXPECT_EQ(said.exit, 6);
  EXPECT_NE(said.all().find("it sleeps"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("wait_for_heat"), std::string::npos) << said.all();
}

TEST_F(Checked, AKeyThatThereIsNot) {
  make("int main(void) { return 0; }\n",
       "[[smoke]]\nname = \"window\"\nrun = [\"kiln\"]\nwindow = { keys = [\"oven\"] }\n");
  const auto said = smoke({"window"});
  EXPECT_EQ(said.exit, 6);
  EXPECT_NE(said.all().find("there is no key 'oven'"), std::string::npos) << said.all();
}

TEST_F(Checked, FilesThatAWindowIsToMake) {
  make("int main(void) { return 0; }\n",
       "[[smoke]]\nname = \"files\"\nrun = [\"kiln\"]\nexpect = { files = [\"curve.csv\"] }\n");
  const auto said = smoke({"files"});
  EXPECT_NE(said.all().find("it has not made curve.csv"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("fix see what it prints"), std::string::npos) << said.all();
}

TEST_F(Checked, ServicesOfAWholeRunProgramsOfItsMembers) {
  tree.write("server/Makefile", "all: server\nserver: server.c\n\tcc -o $@ server.c\n");
  tree.write("server/server.c",
             "#include <stdio.h>\n#include <unistd.h>\nint main(int c, char** v) { (void)v; if (c > 1) return 0;"
             " puts(\"ready\"); fflush(stdout); for (;;) pause(); }\n");
  tree.write("client/Makefile", "all: client\nclient: client.c\n\tcc -o $@ client.c\n");
  tree.write("client/client.c", "#include <stdio.h>\nint main(void) { puts(\"peak 1222\"); return 0; }\n");
  tree.write("coctilis.toml",
             "[tree]\ncomponents = [\"server\", \"client\"]\n[[service]]\nname = \"yard\"\nrun = [\"server\"]\n"
             "[[smoke]]\nname = \"asks\"\nrun = [\"client\"]\nservices = [\"yard\"]\n"
             "numbers = [{ name = \"peak\", find = \"peak (.*)\" }]\n");
  EXPECT_EQ(run("bringup").exit, 0);
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  const auto record = tree.record();
  std::map<std::string, nlohmann::json> checks;
  for (const auto& check : record["checks"]) checks[check["name"]] = check;
  ASSERT_TRUE(checks.contains("yard") && checks.contains("asks")) << record["checks"];
  EXPECT_EQ(checks["yard"]["kind"], "service");
  EXPECT_EQ(checks["asks"]["numbers"][0]["before"], "1222");
}

}  // namespace
}  // namespace coctilis::test
