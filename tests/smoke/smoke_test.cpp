// Checks on small programs made for the purpose.
#include "smoke/smoke.h"

#include "smoke/loader.h"
#include "support.h"

namespace coctilis::smoke {
namespace {

using model::Verdict;

class SmokeTest : public testing::Test {
 protected:
  SmokeTest() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
  }
  // A program that is a shell script: it cannot be loaded, but it runs.
  std::string script(const std::string& name, const std::string& body) {
    const std::string path = plan_.work + "/" + name;
    files::write(path, "#!/bin/sh\n" + body + "\n");
    std::filesystem::permissions(path, std::filesystem::perms::owner_all);
    return path;
  }
  model::PlannedTest& declare(const std::string& name, const std::string& body) {
    model::PlannedTest test;
    test.name = name;
    test.command = {script(name, body)};
    test.folder = plan_.work;
    plan_.tests.push_back(test);
    return plan_.tests.back();
  }
  std::vector<model::Check> run(const std::vector<std::string>& only = {}) {
    Request request;
    request.only = only;
    request.test_limit_seconds = 20;
    std::size_t told = 0;
    auto checks = run_checks(plan_, settings_, request, [&](const model::Check&) { ++told; });
    EXPECT_TRUE(checks.ok());
    EXPECT_EQ(told, checks->size());
    return *checks;
  }
  model::Check one() {
    const auto checks = run();
    EXPECT_EQ(checks.size(), 1U);
    return checks.empty() ? model::Check{} : checks[0];
  }
  test::TreeFolder tree_;
  model::Plan plan_;
  model::Settings settings_;
};

TEST_F(SmokeTest, ExitCodeDecides) {
  declare("good", "exit 0");
  declare("bad", "echo cracked; exit 4");
  const auto checks = run();
  EXPECT_EQ(checks[0].verdict, Verdict::passed);
  EXPECT_EQ(checks[1].verdict, Verdict::failed);
  EXPECT_EQ(checks[1].reason, "exit code 4");
  EXPECT_EQ(checks[1].output, "cracked\n");
}

TEST_F(SmokeTest, ExpectedFailure) {
  declare("a", "exit 1").will_fail = true;
  declare("b", "exit 0").will_fail = true;
  const auto checks = run();
  EXPECT_EQ(checks[0].verdict, Verdict::passed);
  EXPECT_EQ(checks[1].verdict, Verdict::failed);
}

TEST_F(SmokeTest, PatternsDecideInsteadOfTheExitCode) {
  declare("pass", "echo peak 1222; exit 3").pass_patterns = {"peak [0-9]+"};
  declare("lack", "echo nothing").pass_patterns = {"peak"};
  declare("fail", "echo crack").fail_patterns = {"crack"};
  const auto checks = run();
  EXPECT_EQ(checks[0].verdict, Verdict::passed);
  EXPECT_EQ(checks[1].verdict, Verdict::failed);
  EXPECT_EQ(checks[2].verdict, Verdict::failed);
}

TEST_F(SmokeTest, SkippedWithReason) {
  declare("says", "exit 77").skip_code = 77;
  declare("off", "exit 1").disabled = true;
  declare("needs", "exit 1").needs_files = {"/no/such/file"};
  auto& foreign = declare("foreign", "exit 1");
  foreign.command = {"make", "check"};
  for (const auto& check : run()) {
    EXPECT_EQ(check.verdict, Verdict::skipped) << check.name;
    EXPECT_FALSE(check.reason.empty());
  }
}

TEST_F(SmokeTest, TimeLimit) {
  declare("slow", "sleep 20").limit_seconds = 0.2;
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::failed);
  EXPECT_NE(check.reason.find("still running"), std::string::npos);
}

TEST_F(SmokeTest, Environment) {
  declare("env", "test \"$BRICK\" = red").environment["BRICK"] = "red";
  EXPECT_EQ(one().verdict, Verdict::passed);
}

TEST_F(SmokeTest, SmokeChecksRunInAnEmptyFolder) {
  script("press", "ls -A | wc -l; echo \"$1\"; exit 2");
  model::SmokeCheck check;
  check.name = "press";
  check.run = {"${kiln}/work/press", "${tree}"};
  check.exit = 2;
  check.output = "^0\\n" + tree_.path();
  settings_.smoke = {check};
  const auto result = one();
  EXPECT_EQ(result.verdict, Verdict::passed) << result.reason << result.output;
}

TEST_F(SmokeTest, WrongExitCodeIsTold) {
  script("press", "exit 1");
  model::SmokeCheck check;
  check.name = "press";
  check.run = {"${kiln}/work/press"};
  settings_.smoke = {check};
  EXPECT_EQ(one().reason, "exit code 1, expected 0");
}

TEST_F(SmokeTest, OnlyNamedChecksRun) {
  declare("a", "exit 0");
  declare("b", "exit 0");
  const auto checks = run({"b"});
  ASSERT_EQ(checks.size(), 1U);
  EXPECT_EQ(checks[0].name, "b");
  const auto wrong = run_checks(plan_, settings_, {{"c"}, 1, 1}, [](const model::Check&) {});
  ASSERT_FALSE(wrong.ok());
  EXPECT_EQ(wrong.problem().exit, Exit::usage);
}

TEST_F(SmokeTest, WhatIsNoProgramOfThisSystemIsTold) {
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.output = script("press", "exit 0");
  plan_.targets.push_back(target);
  const auto checks = run();
  ASSERT_EQ(checks.size(), 2U);
  EXPECT_EQ(checks[0].kind, model::CheckKind::loads);
  EXPECT_EQ(checks[0].verdict, Verdict::failed);
  EXPECT_EQ(checks[1].kind, model::CheckKind::starts);
  EXPECT_EQ(checks[1].verdict, Verdict::passed);
}

TEST_F(SmokeTest, FirstOptionThatWorksIsEnough) {
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.output = script("press", "test \"$1\" = --help && exit 0; exit 9");
  plan_.targets.push_back(target);
  EXPECT_EQ(run({"press starts"})[0].reason, "with --help: exit code 0");
}

TEST_F(SmokeTest, NotMadeIsLeftOut) {
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.output = plan_.work + "/gone";
  plan_.targets.push_back(target);
  declare("t", "exit 0").program = "press";
  EXPECT_EQ(one().verdict, Verdict::skipped);
}

}  // namespace
}  // namespace coctilis::smoke
