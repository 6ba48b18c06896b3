// [[smoke]] and [[service]] in coctilis.toml: what is read, and what is refused with its place.
#include "support.h"
#include "survey/settings.h"

namespace coctilis::survey {
namespace {

class CheckSettings : public testing::Test {
 protected:
  Result<model::Settings> read(const std::string& text) {
    tree_.write("coctilis.toml", text);
    return settings_of(tree_.path(), {});
  }
  test::TreeFolder tree_;
};

TEST_F(CheckSettings, OneLineIsEnough) {
  const auto settings = read("[[smoke]]\nrun = [\"kiln\", \"--cone\", \"6\"]\n");
  ASSERT_TRUE(settings.ok());
  const auto& check = settings->smoke.at(0);
  EXPECT_EQ(check.name, "kiln");
  ASSERT_EQ(check.steps.size(), 1U);
  EXPECT_EQ(check.steps[0].run, (std::vector<std::string>{"kiln", "--cone", "6"}));
  EXPECT_EQ(check.steps[0].expected.exit, 0);
  EXPECT_EQ(check.steps[0].expected.within, 10);
  EXPECT_FALSE(check.steps[0].input);
  EXPECT_EQ(check.retries, 0);
}

TEST_F(CheckSettings, TheSecondOfAProgramIsNamedByItsWords) {
  const auto settings = read("[[smoke]]\nrun = [\"kiln\"]\n[[smoke]]\nrun = [\"kiln\", \"--cold\"]\n");
  ASSERT_TRUE(settings.ok());
  EXPECT_EQ(settings->smoke.at(1).name, "kiln --cold");
}

TEST_F(CheckSettings, AllKeysOfAProgram) {
  const auto settings = read(R"toml(
[[smoke]]
name = "all"
run = ["kiln", "${N}"]
folder = "${program}"
environment = { CONE = 6, HOT = true }
files = ["data/firing.conf", { from = "data/a", to = "in/b" }]
folders = "out"
launcher = ["launch", "-n", "4"]
devices = ["display", "/dev/kiln0"]
benign = "sensor"
forbid = ["^error"]
input = "clay"
expect = { exit = "any", output = ["a", "b"], absent = "c", in-order = ["d", "e"], files = "out/x", within = "1 min", at-least = "1 s" }
retries = 2
over = { N = [1, 2.5, "x"] }
reference = "refs/all.json"
numbers = [{ find = "peak (.*)" }, { name = "n", file = "c.csv", column = "heat", row = 3, absolute = 1, relative = 0.5 }]
)toml");
  ASSERT_TRUE(settings.ok()) << settings.problem().what;
  const auto& check = settings->smoke.at(0);
  const auto& around = check.surroundings;
  EXPECT_EQ(around.environment.at("CONE"), "6");
  EXPECT_EQ(around.environment.at("HOT"), "ON");
  ASSERT_EQ(around.files.size(), 2U);
  EXPECT_EQ(around.files[0].to, "firing.conf");
  EXPECT_EQ(around.files[1].to, "in/b");
  EXPECT_EQ(around.folders, std::vector<std::string>{"out"});
  EXPECT_EQ(around.launcher.size(), 3U);
  EXPECT_EQ(check.steps[0].input, "clay");
  const auto& expected = check.steps[0].expected;
  EXPECT_FALSE(expected.exit);
  EXPECT_EQ(expected.output.size(), 2U);
  EXPECT_EQ(expected.within, 60);
  EXPECT_EQ(expected.at_least, 1);
  EXPECT_EQ(check.over.at(0).second, (std::vector<std::string>{"1", "2.5", "x"}));
  EXPECT_EQ(check.numbers.at(0).name, "peak (.*)");
  EXPECT_EQ(check.numbers.at(1).row, 3);
  EXPECT_EQ(check.numbers.at(1).relative, 0.5);
}

TEST_F(CheckSettings, Services) {
  const auto settings = read(R"toml(
[[service]]
run = ["server", "4711"]
ready = { line = "ready", port = 4711, within = "2 s" }
probe = [
  { url = "http://localhost:4711/x?y", status = 404, body = "z", headers = { Server = "kiln" } },
  { connect = "localhost:4711", send = "a", expect = "b" },
  { run = ["client"], times = 4, at-once = true, expect = { exit = 1 } },
]
stop-within = "1 s"
[[service]]
name = "second"
run = ["server", "4712"]
needs = "server"
[[smoke]]
run = ["client"]
services = ["second"]
)toml");
  ASSERT_TRUE(settings.ok()) << settings.problem().what;
  const auto& service = settings->services.at(0);
  EXPECT_EQ(service.name, "server");
  EXPECT_EQ(service.ready.port, 4711);
  EXPECT_TRUE(service.ready.is_said());
  ASSERT_EQ(service.probes.size(), 3U);
  EXPECT_EQ(service.probes[0].headers.at("Server"), "kiln");
  EXPECT_EQ(service.probes[1].expect, "b");
  EXPECT_EQ(service.probes[2].step.expected.exit, 1);
  EXPECT_TRUE(service.probes[2].at_once);
  EXPECT_EQ(settings->services.at(1).needs, std::vector<std::string>{"server"});
}

TEST_F(CheckSettings, OneProbeStandsForAListOfOne) {
  const auto settings = read("[[service]]\nrun = [\"prices\"]\nprobe = { url = \"http://localhost:1/\" }\n");
  ASSERT_TRUE(settings.ok()) << settings.problem().what;
  EXPECT_EQ(settings->services.at(0).probes.size(), 1U);
}

TEST_F(CheckSettings, AFileStandsForAListOfOne) {
  const auto settings = read("[[smoke]]\nrun = [\"kiln\"]\nfiles = \"data/firing.conf\"\n");
  ASSERT_TRUE(settings.ok()) << settings.problem().what;
  EXPECT_EQ(settings->smoke.at(0).surroundings.files.at(0).to, "firing.conf");
}

TEST_F(CheckSettings, ALaterFileReplacesTheCheckOfThatName) {
  tree_.write("coctilis.local.toml", "[[smoke]]\nname = \"x\"\nrun = [\"b\"]\n");
  const auto settings = read("[[smoke]]\nname = \"x\"\nrun = [\"a\"]\n");
  ASSERT_TRUE(settings.ok());
  ASSERT_EQ(settings->smoke.size(), 1U);
  EXPECT_EQ(settings->smoke[0].steps[0].run.front(), "b");
}

struct Wrong {
  const char* name;
  const char* text;
  int line;
  const char* says;
};
class WrongChecks : public CheckSettings, public testing::WithParamInterface<Wrong> {};

TEST_P(WrongChecks, AreRefusedWithTheirPlace) {
  const auto settings = read(GetParam().text);
  ASSERT_FALSE(settings.ok());
  const auto& problem = settings.problem();
  EXPECT_EQ(problem.exit, Exit::usage);
  EXPECT_EQ(problem.place.line, GetParam().line) << problem.what;
  EXPECT_NE((problem.what + " | " + problem.remedy).find(GetParam().says), std::string::npos)
      << problem.what << " | " << problem.remedy;
  EXPECT_FALSE(problem.remedy.empty());
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongChecks,
    testing::Values(
        Wrong{"NoProgram", "[[smoke]]\nname = \"x\"\n", 1, "needs run"},
        Wrong{"EmptyProgram", "[[smoke]]\nrun = []\n", 2, "names no program"},
        Wrong{"BothWays", "[[smoke]]\nrun = [\"a\"]\nsteps = [{ run = [\"b\"] }]\n", 1, "run or steps"},
        Wrong{"UnknownKey", "[[smoke]]\nrun = [\"a\"]\nexpct = { exit = 0 }\n", 3, "did you mean 'expect'"},
        Wrong{"NoPattern", "[[smoke]]\nrun = [\"a\"]\nexpect = { absent = [\"(\"] }\n", 3, "cannot be read"},
        Wrong{"NoGroup", "[[smoke]]\nrun = [\"a\"]\nnumbers = [{ find = \"peak\" }]\n", 3, "0 groups, not 1"},
        Wrong{"NumberOfNothing", "[[smoke]]\nrun = [\"a\"]\nnumbers = [{ name = \"x\" }]\n", 3,
              "one of find, column and key"},
        Wrong{"ColumnOfNoFile", "[[smoke]]\nrun = [\"a\"]\nnumbers = [{ column = \"x\" }]\n", 3, "of a file"},
        Wrong{"TwoNumbers", "[[smoke]]\nrun = [\"a\"]\nnumbers = [{ find = \"(a)\" }, { find = \"(a)\" }]\n", 3,
              "two numbers"},
        Wrong{"ReferenceOfNothing", "[[smoke]]\nrun = [\"a\"]\nreference = \"x\"\n", 1, "compared with nothing"},
        Wrong{"OutOfTheTree", "[[smoke]]\nrun = [\"a\"]\nreference = \"../x\"\nnumbers = [{ find = \"(a)\" }]\n", 3,
              "out of the tree"},
        Wrong{"OutOfTheFolder", "[[smoke]]\nrun = [\"a\"]\nfolders = [\"a/../../b\"]\n", 3,
              "out of the working folder"},
        Wrong{"FileOut", "[[smoke]]\nrun = [\"a\"]\nfiles = [{ from = \"x\", to = \"/etc/x\" }]\n", 3,
              "out of the working folder"},
        Wrong{"NoDevice", "[[smoke]]\nrun = [\"a\"]\ndevices = [\"printer\"]\n", 3, "no device"},
        Wrong{"LongerThanItMay", "[[smoke]]\nrun = [\"a\"]\nexpect = { at-least = \"10 s\" }\n", 3, "at least as long"},
        Wrong{"TooManyRetries", "[[smoke]]\nrun = [\"a\"]\nretries = 101\n", 3, "from 0 to 100"},
        Wrong{"OverNothing", "[[smoke]]\nrun = [\"a\"]\nover = { N = [] }\n", 3, "list of values"},
        Wrong{"OverAWordOfOurs", "[[smoke]]\nrun = [\"a\"]\nover = { tree = [1] }\n", 3, "cannot be gone over"},
        Wrong{"TwoOfAName", "[[smoke]]\nname = \"x\"\nrun = [\"a\"]\n[[smoke]]\nname = \"x\"\nrun = [\"b\"]\n", 4,
              "already"},
        Wrong{"UnknownNeed", "[[smoke]]\nrun = [\"a\"]\nneeds = [\"b\"]\n", 1, "no [[smoke]] check 'b'"},
        Wrong{"UnknownService", "[[smoke]]\nrun = [\"a\"]\nservices = [\"b\"]\n", 1, "no [[service]] 'b'"},
        Wrong{"ChecksInACircle",
              "[[smoke]]\nname = \"a\"\nrun = [\"a\"]\nneeds = [\"b\"]\n[[smoke]]\nname = \"b\"\nrun = [\"b\"]\nneeds "
              "= [\"a\"]\n",
              1, "a -> b -> a"},
        Wrong{"ServicesInACircle",
              "[[service]]\nname = \"a\"\nrun = [\"a\"]\nneeds = [\"b\"]\n[[service]]\nname = \"b\"\nrun = "
              "[\"b\"]\nneeds = [\"a\"]\n",
              1, "services need each other"},
        Wrong{"NoAddress", "[[service]]\nrun = [\"a\"]\nready = { url = \"https://x/\" }\n", 3, "no address of a page"},
        Wrong{"NoPort", "[[service]]\nrun = [\"a\"]\nready = { port = 70000 }\n", 3, "from 1 to 65535"},
        Wrong{"ProbeOfNothing", "[[service]]\nrun = [\"a\"]\nprobe = [{ status = 200 }]\n", 3, "url, connect or run"},
        Wrong{"BodyOfNoPage", "[[service]]\nrun = [\"a\"]\nprobe = [{ connect = \"a:1\", body = \"x\" }]\n", 3,
              "of a page"},
        Wrong{"WindowForSoLong", "[[smoke]]\nrun = [\"a\"]\nwindow = true\nexpect = { at-least = \"1 s\" }\n", 1,
              "ends when that is closed"},
        Wrong{"WindowOfNoSize", "[[smoke]]\nrun = [\"a\"]\nwindow = { screen = \"big\" }\n", 3, "no size of a screen"},
        Wrong{"ClickNowhere", "[[smoke]]\nrun = [\"a\"]\nwindow = { clicks = [\"left\"] }\n", 3,
              "no place in a window"}),
    [](const auto& one) { return one.param.name; });

}  // namespace
}  // namespace coctilis::survey
