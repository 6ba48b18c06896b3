// Services: when they are ready, what they are asked, and how they end. They are scripts of the shell.
#include "smoke/smoke.h"
#include "support.h"

namespace coctilis::smoke {
namespace {

using model::Verdict;

class ServicesTest : public testing::Test {
 protected:
  ServicesTest() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
  }
  model::AskedService& serve(const std::string& name, const std::string& script) {
    model::AskedService service;
    service.name = name;
    service.run = {"sh", "-c", script};
    service.ready.within = 10;
    settings_.services.push_back(service);
    return settings_.services.back();
  }
  void probe(model::AskedService& service, const std::string& script, int times = 1, bool at_once = false) {
    model::Probe probe;
    probe.step.run = {"sh", "-c", script};
    probe.times = times;
    probe.at_once = at_once;
    service.probes.push_back(probe);
  }
  std::vector<model::Check> run() {
    const auto checks = run_checks(plan_, settings_, {}, [](const model::Check&) {});
    EXPECT_TRUE(checks.ok());
    return *checks;
  }
  model::Check one() { return run().at(0); }
  test::TreeFolder tree_;
  model::Plan plan_;
  model::Settings settings_;
};

constexpr const char* stays = "trap 'exit 0' TERM; echo ready; while :; do sleep 0.05; done";

TEST_F(ServicesTest, ALineSaysThatItIsReady) {
  serve("kiln", stays);
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::passed) << check.reason;
  EXPECT_NE(check.reason.find("says that it is"), std::string::npos) << check.reason;
  EXPECT_NE(check.reason.find("stopped in"), std::string::npos) << check.reason;
}

TEST_F(ServicesTest, TheLineThatIsAskedForCounts) {
  serve("kiln", "echo ready; sleep 0.2; echo hot; exec sleep 100").ready.line = "^hot$";
  EXPECT_NE(one().reason.find("said '^hot$'"), std::string::npos);
}

TEST_F(ServicesTest, AFileSaysThatItIsReady) {
  serve("kiln", "sleep 0.1; touch hot; exec sleep 100").ready.file = "hot";
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::passed) << check.reason;
  EXPECT_NE(check.reason.find("made hot"), std::string::npos) << check.reason;
}

TEST_F(ServicesTest, OneThatIsNeverReady) {
  serve("kiln", "exec sleep 100").ready.within = 0.3;
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::failed);
  EXPECT_NE(check.reason.find("not ready within"), std::string::npos);
  EXPECT_NE(check.cause.find("neither listens"), std::string::npos);
  EXPECT_FALSE(check.remedy.empty());
}

TEST_F(ServicesTest, OneThatEndsBeforeItIsReady) {
  serve("kiln", "echo no clay; exit 3");
  EXPECT_EQ(one().reason, "it ended before it was ready: exit code 3");
}

TEST_F(ServicesTest, OneThatEndsByItselfIsNone) {
  // It ends when it is asked for the first time, and is given the time to.
  auto& service = serve("kiln", "echo ready; until test -e asked; do sleep 0.05; done; exit 0");
  probe(service, "touch asked; sleep 2");
  EXPECT_EQ(one().reason, "it ended by itself, after it was ready: exit code 0");
  service.probes.clear();
  probe(service, "touch asked; sleep 2; exit 4");
  EXPECT_EQ(one().reason, "it ended while it was asked: exit code 0");
}

TEST_F(ServicesTest, BesideACheckItMayEndWhenItHasNothingMoreToDo) {
  // Neither can tell the other when, so that there is time enough between.
  serve("kiln", "echo ready; sleep 2; exit 0");
  model::AskedCheck check;
  check.name = "client";
  check.services = {"kiln"};
  check.steps.resize(1);
  check.steps[0].run = {"sleep", "5"};
  settings_.smoke = {check};
  EXPECT_EQ(run().at(1).verdict, Verdict::passed);
  settings_.services[0].run.back() = "echo ready; sleep 2; exit 5";
  EXPECT_EQ(run().at(1).reason, "the service 'kiln': it ended by itself: exit code 5");
}

TEST_F(ServicesTest, ClientsAreRunAndJudged) {
  auto& service = serve("kiln", stays);
  probe(service, "echo x >>asked; echo glaze", 3, true);
  probe(service, "wc -l <asked | grep 3");
  EXPECT_EQ(one().verdict, Verdict::passed) << one().reason;
  probe(service, "echo cracked; exit 4");
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::failed);
  EXPECT_NE(check.reason.find("exit code 4"), std::string::npos) << check.reason;
  EXPECT_EQ(check.evidence.back(), "it printed: cracked");
}

TEST_F(ServicesTest, OneThatDoesNotEndIsKilled) {
  serve("kiln", "trap '' TERM; echo ready; while :; do sleep 0.05; done").stop_within = 0.3;
  EXPECT_NE(one().reason.find("did not end within"), std::string::npos);
}

TEST_F(ServicesTest, WhatIsForbiddenInItsOutput) {
  serve("kiln", "trap 'echo error: cold; exit 0' TERM; echo ready; while :; do sleep 0.05; done")
      .surroundings.forbid = {"^error"};
  EXPECT_EQ(one().reason, "its output has what is forbidden: error: cold");
}

TEST_F(ServicesTest, OutputThatIsNotWholeIsNotJudged) {
  auto& service = serve("kiln", "echo ready; yes clay | head -c 20000000; exec sleep 100");
  service.surroundings.forbid = {"^error"};
  probe(service, "sleep 1.5");
  EXPECT_NE(one().reason.find("more than is kept"), std::string::npos) << one().reason;
}

TEST_F(ServicesTest, OthersThatItNeedsRunMeanwhile) {
  serve("user", stays).needs = {"kiln"};
  serve("kiln", stays);
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.reason;
  settings_.services[1].run = {"sh", "-c", "exit 1"};
  const auto checks = run();
  EXPECT_EQ(checks[0].reason, "the service 'kiln': it ended before it was ready: exit code 1");
}

TEST_F(ServicesTest, ACheckRunsBesideThem) {
  serve("kiln", stays);
  model::AskedCheck check;
  check.name = "client";
  check.services = {"kiln"};
  check.steps.resize(1);
  check.steps[0].run = {"true"};
  settings_.smoke = {check};
  const auto checks = run();
  ASSERT_EQ(checks.size(), 2U);
  EXPECT_EQ(checks[1].verdict, Verdict::passed) << checks[1].reason;
  EXPECT_NE(checks[1].output.find("[kiln]\nready"), std::string::npos) << "what the service printed is shown";
}

}  // namespace
}  // namespace coctilis::smoke
