// Checks on small programs made for the purpose.
#include "smoke/smoke.h"

#include <unistd.h>

#include "base/loader.h"
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
  model::TestCase& declare(const std::string& name, const std::string& body) {
    model::TestCase test;
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
    request.jobs = jobs_;
    request.begun = [&](const std::string& name) { begun_.push_back(name); };
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
  unsigned jobs_ = 1;
  std::vector<std::string> begun_;
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
  declare("foreign", "exit 1").not_followed = "it runs a build program, which is never started";
  const auto checks = run();
  ASSERT_EQ(checks.size(), 4U);
  for (const auto& check : checks) {
    EXPECT_EQ(check.verdict, Verdict::skipped) << check.name;
    EXPECT_FALSE(check.reason.empty());
  }
}

TEST_F(SmokeTest, PointsAreCounted) {
  const std::pair<const char*, Verdict> all[] = {
      {"echo 1..2; echo ok 1; echo ok 2 - fired", Verdict::passed},
      {"echo ok 1; echo 1..1", Verdict::passed},
      {"echo 1..2; echo ok 1; echo 'not ok 2 - cracks # TODO glaze'", Verdict::passed},
      {"echo 1..2; echo ok 1 '# SKIP no kiln'; echo ok 2", Verdict::passed},
      {"echo 1..1; echo 'ok 1 - outer'; echo '    not ok 1 - inner'", Verdict::passed},
      {"echo 1..1; echo 'not ok 1 - takes #5 kilns'", Verdict::failed},
      {"echo 1..1; echo 'not ok 1 - tiles # slow'", Verdict::failed},
      {"echo 1..1; echo 'not ok 1 - a \\# todo'", Verdict::failed},
      {"echo 1..3; echo ok 1; echo ok 2", Verdict::failed},
      {"echo 1..1; echo ok 1; echo ok 2", Verdict::failed},
      {"echo ok 1", Verdict::failed},
      {"echo 1..1; echo ok 1; exit 2", Verdict::failed},
      {"echo 1..2; echo ok 1; echo 'Bail out! no clay'; echo ok 2", Verdict::failed},
      {"echo nothing", Verdict::failed},
      {"echo '1..0 # skip no clay'", Verdict::skipped},
      {"echo 1..1; echo 'ok 1 # skip no clay'", Verdict::skipped},
      {"echo 1..1; echo 'not ok 1 - tile #3 # TODO until #5 is mended'", Verdict::passed}};
  int n = 0;
  for (const auto& [script, verdict] : all) declare("points-" + std::to_string(++n), script).test_lines = true;
  const auto checks = run();
  ASSERT_EQ(checks.size(), std::size(all));
  for (std::size_t i = 0; i < checks.size(); ++i)
    EXPECT_EQ(checks[i].verdict, all[i].second) << all[i].first << ": " << checks[i].reason;
  EXPECT_EQ(checks[5].reason, "not ok 1 - takes #5 kilns");
  EXPECT_EQ(checks[14].reason, "no clay");
}

// One that could not even begin has not failed as it is meant to.
TEST_F(SmokeTest, AnErrorIsNoExpectedFailure) {
  for (const int code : {1, 99}) {
    auto& test = declare("code-" + std::to_string(code), "exit " + std::to_string(code));
    test.will_fail = true;
    test.error_code = 99;
  }
  const auto checks = run();
  EXPECT_EQ(checks[0].verdict, Verdict::passed);
  EXPECT_EQ(checks[1].verdict, Verdict::failed);
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
  model::AskedCheck check;
  check.name = "press";
  check.steps.resize(1);
  check.steps[0].run = {"${kiln}/work/press", "${tree}"};
  check.steps[0].expected.exit = 2;
  check.steps[0].expected.output = {"^0\\n" + tree_.path()};
  settings_.smoke = {check};
  const auto result = one();
  EXPECT_EQ(result.verdict, Verdict::passed) << result.reason << result.output;
}

TEST_F(SmokeTest, WrongExitCodeIsTold) {
  script("press", "exit 1");
  model::AskedCheck check;
  check.name = "press";
  check.steps.resize(1);
  check.steps[0].run = {"${kiln}/work/press"};
  settings_.smoke = {check};
  EXPECT_EQ(one().reason, "exit code 1, expected 0");
}

// What fails when another of its kind runs, as it uses the same folder.
constexpr const char* jealous = "mkdir here || exit 1; sleep 0.3; rmdir here";

TEST_F(SmokeTest, TestsThatDisturbEachOtherAreMadeOnceMoreAlone) {
  jobs_ = 4;
  for (const char* name : {"a", "b", "c", "d"}) declare(name, jealous);
  declare("broken", "exit 7");
  const auto checks = run();
  ASSERT_EQ(checks.size(), 5U);
  for (std::size_t i = 0; i < 4; ++i)
    EXPECT_EQ(checks[i].verdict, Verdict::passed) << checks[i].name << checks[i].reason;
  EXPECT_EQ(checks[4].verdict, Verdict::failed);
  EXPECT_EQ(checks[2].name, "c") << "the results are in the order of the description";
}

TEST_F(SmokeTest, ALockIsOnesAtATime) {
  jobs_ = 4;
  for (const char* name : {"a", "b", "c"}) {
    auto& test = declare(name, std::string("echo x >>tries; ") + jealous);
    test.locks = {"kiln"};
  }
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.reason;
  EXPECT_EQ(files::read(plan_.work + "/tries"), "x\nx\nx\n") << "none had to be made once more";
}

TEST_F(SmokeTest, OneThatRunsAloneDoes) {
  jobs_ = 4;
  declare("a", std::string("echo x >>tries; ") + jealous);
  declare("b", std::string("echo x >>tries; ") + jealous).alone = true;
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.reason;
  EXPECT_EQ(files::read(plan_.work + "/tries"), "x\nx\n");
}

TEST_F(SmokeTest, WhatATestWaitsForIsOver) {
  jobs_ = 4;
  declare("reads", "test -e made").after = {"makes"};
  declare("makes", "sleep 0.2; touch made").sets_up = {"clay"};
  declare("uses", "test -e made").requires_ = {"clay"};
  declare("takes away", "rm made").cleans_up = {"clay"};
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.name << ": " << check.reason;
}

TEST_F(SmokeTest, WhereTheOrderIsImpliedItIsKept) {
  jobs_ = 4;
  declare("prepares", "mkdir -p here");
  declare("tests", "sleep 0.3; test -d here");
  declare("cleans", "sleep 0.1; rm -rf here");
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.name << ": " << check.reason;
  begun_.clear();
  for (const auto& check : run()) EXPECT_EQ(check.verdict, Verdict::passed) << check.name << ": " << check.reason;
  EXPECT_EQ(begun_, (std::vector<std::string>{"prepares", "tests", "cleans"})) << "they are not run side by side again";
}

TEST_F(SmokeTest, TheLongestBeginFirst) {
  jobs_ = 2;
  declare("a", "exit 0");
  declare("b", "sleep 0.2");
  declare("c", "sleep 0.5");
  plan_.tests[1].cost = 9;
  EXPECT_EQ(run().size(), 3U);
  EXPECT_EQ(begun_.at(0), "b") << "as the description has it";
  begun_.clear();
  EXPECT_EQ(run().size(), 3U);
  EXPECT_EQ(begun_.at(0), "c") << "as it was the last time";
  EXPECT_EQ(begun_.at(1), "b");
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

TEST_F(SmokeTest, AProgramThatEndsWithAnErrorHasNotStarted) {
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.installed = true;
  const auto started = [&](const std::string& text) {
    target.output = script("press", text);
    plan_.targets = {target};
    return run({"press starts"})[0];
  };
  const auto failed = started("echo 'press.conf: No such file or directory' >&2; exit 3");
  EXPECT_EQ(failed.verdict, Verdict::failed);
  EXPECT_EQ(failed.reason, "ended with an error, exit code 3: press.conf: No such file or directory");
  EXPECT_EQ(started("echo 'press: cannot open /opt/yard/press.conf'; exit 1").verdict, Verdict::skipped);
  EXPECT_EQ(started("exit 1").verdict, Verdict::skipped);
  EXPECT_EQ(started("echo 'usage: press FILE'; exit 2").reason, "with --help: it tells how it is called");
  EXPECT_EQ(started("echo \"press: no such clay: $1\"; exit 2").verdict, Verdict::passed);
  // What it showed by one word, another it does not like takes nothing from.
  EXPECT_EQ(
      started("test $1 = --version && { echo 'press: unknown option'; exit 1; }; echo 'fatal error'; exit 1").verdict,
      Verdict::passed);
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

TEST_F(SmokeTest, OperationsAreDoneHere) {
  files::write(plan_.work + "/in.txt", "clay");
  model::TestCase copy;
  copy.name = "copy";
  copy.command = {"copy", "in.txt", "out.txt"};
  copy.operation = true;
  copy.folder = plan_.work;
  model::TestCase compare = copy;
  compare.name = "compare";
  compare.command = {"compare_files", "in.txt", "out.txt"};
  model::TestCase outside = copy;
  outside.name = "outside";
  outside.command = {"copy", "in.txt", "/tmp/brickyard-out.txt"};
  plan_.tests = {copy, compare, outside};
  const auto checks = run();
  ASSERT_EQ(checks.size(), 3U);
  EXPECT_EQ(checks[0].verdict, Verdict::passed);
  EXPECT_EQ(checks[1].verdict, Verdict::passed);
  EXPECT_EQ(checks[2].verdict, Verdict::failed);
  EXPECT_FALSE(files::is_file("/tmp/brickyard-out.txt"));
}

TEST_F(SmokeTest, HelpersThatFallWhenAskedAreNoFailureUnlessTheyAreInstalled) {
  model::PlannedTarget helper;
  helper.name = "helper";
  helper.kind = model::TargetKind::program;
  helper.output = script("helper", "kill -SEGV $$");
  model::PlannedTarget product = helper;
  product.name = "product";
  product.installed = true;
  plan_.targets = {helper, product};
  std::map<std::string, Verdict> verdicts;
  for (const auto& check : run()) {
    if (check.kind == model::CheckKind::starts) verdicts[check.name] = check.verdict;
  }
  EXPECT_EQ(verdicts.at("helper starts"), Verdict::skipped);
  EXPECT_EQ(verdicts.at("product starts"), Verdict::failed);
}

TEST_F(SmokeTest, AnExceptionThatNobodyCatchesShowsThatTheProgramStarts) {
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.installed = true;
  target.output = script("press", "echo \"terminate called after throwing an instance of 'NoClay'\"; kill -ABRT $$");
  plan_.targets = {target};
  EXPECT_EQ(run({"press starts"})[0].verdict, Verdict::passed);
  target.output = script("press", "echo 'assertion failed'; kill -ABRT $$");
  plan_.targets = {target};
  EXPECT_EQ(run({"press starts"})[0].verdict, Verdict::failed);
}

TEST_F(SmokeTest, TestsThatCannotBeMadeHereAreSkipped) {
  declare("builds", "exit 1");
  plan_.tests[0].not_followed = "it asks for what is not done here";
  EXPECT_EQ(one().verdict, Verdict::skipped);
  EXPECT_EQ(one().reason, "it asks for what is not done here");
  plan_.tests.clear();
  declare("root", "echo 'This suite cannot be run as root.'; exit 1");
  const auto check = one();
  EXPECT_EQ(check.verdict, ::geteuid() == 0 ? Verdict::skipped : Verdict::failed);
  EXPECT_NE(check.reason, "");
}

TEST_F(SmokeTest, TestsOfTheSuperuserGetItsRights) {
  if (::geteuid() != 0) GTEST_SKIP() << "not the superuser";
  // The first wants to be kept out by a mode, the second must not be.
  declare("plain", "touch shut; chmod 0 shut; ! cat shut 2>/dev/null");
  EXPECT_EQ(one().verdict, Verdict::passed);
  plan_.tests.clear();
  declare("root", "touch shut; chmod 0 shut; cat shut");
  const auto check = one();
  EXPECT_EQ(check.verdict, Verdict::passed) << check.output;
  EXPECT_NE(check.reason.find("all rights of the superuser"), std::string::npos) << check.reason;
}

TEST_F(SmokeTest, WhatIsToFailIsNotTriedInOtherWays) {
  // Each run leaves a line: what ends as the description expects is run once.
  auto& fails = declare("fails", "echo x >>" + plan_.work + "/log; touch shut; chmod 0 shut; cat shut");
  fails.will_fail = true;
  EXPECT_EQ(one().verdict, Verdict::passed);
  plan_.tests.clear();
  declare("skips", "echo x >>" + plan_.work + "/log; exit 77").skip_code = 77;
  EXPECT_EQ(one().verdict, Verdict::skipped);
  plan_.tests.clear();
  declare("says", "echo x >>" + plan_.work + "/log; echo cone 6; exit 3").pass_patterns = {"cone [0-9]"};
  EXPECT_EQ(one().verdict, Verdict::passed);
  EXPECT_EQ(files::read(plan_.work + "/log").value_or(""), "x\nx\nx\n");
}

TEST_F(SmokeTest, ProgramsThatDrawAreStartedWithoutADisplay) {
  for (const char* name : {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"}) ::unsetenv(name);
  model::PlannedTarget target;
  target.name = "press";
  target.kind = model::TargetKind::program;
  target.output = script("press", "test \"$QT_QPA_PLATFORM\" = offscreen");
  plan_.targets = {target};
  EXPECT_EQ(run({"press starts"})[0].verdict, Verdict::passed);
  target.output = script("press", "echo 'Error: cannot open display: '; kill -ABRT $$");
  plan_.targets = {target};
  const auto check = run({"press starts"})[0];
  EXPECT_EQ(check.verdict, Verdict::skipped);
  EXPECT_TRUE(check.reason.starts_with("it wants a display, and there is none")) << check.reason;
}

TEST_F(SmokeTest, ProgramsOfAnotherMachineWaitForAnEmulator) {
  // The file begins as one of another processor; without an emulator it is not started.
  std::string elf(64, '\0');
  elf.replace(0, 4, "\177ELF");
  elf[4] = 2;
  elf[5] = 1;
  elf[6] = 1;
  elf[16] = 2;
  elf[18] = static_cast<char>(0xB7);
  elf[20] = 1;
  elf[52] = 64;
  const std::string path = plan_.work + "/foreign";
  files::write(path, elf);
  std::filesystem::permissions(path, std::filesystem::perms::owner_all);
  model::TestCase test;
  test.name = "foreign";
  test.command = {path};
  test.folder = plan_.work;
  plan_.tests = {test};
  model::Toolchain chain;
  chain.foreign = true;
  chain.machine = "aarch64-linux-gnu";
  Request request;
  request.toolchain = &chain;
  const auto ended = [](const model::Check&) {};
  auto checks = run_checks(plan_, settings_, request, ended);
  ASSERT_TRUE(checks.ok());
  EXPECT_EQ((*checks)[0].verdict, Verdict::skipped);
  EXPECT_NE((*checks)[0].reason.find("no emulator"), std::string::npos);
  chain.launcher = {script("emulator", "echo \"runs $1\"")};
  checks = run_checks(plan_, settings_, request, ended);
  EXPECT_EQ((*checks)[0].verdict, Verdict::passed);
  EXPECT_EQ((*checks)[0].output, "runs " + path + "\n");
}

TEST_F(SmokeTest, FixturesComeBeforeAndAfter) {
  const std::string yard = plan_.work + "/yard";
  declare("clean", "rmdir " + yard).cleans_up = {"yard"};
  declare("use", "test -d " + yard).requires_ = {"yard"};
  declare("last", "test ! -d " + yard).after = {"clean"};
  declare("build-it", "mkdir " + yard).sets_up = {"yard"};
  std::vector<std::string> order;
  for (const auto& check : run()) {
    EXPECT_EQ(check.verdict, Verdict::passed) << check.name;
    order.push_back(check.name);
  }
  EXPECT_EQ(order, (std::vector<std::string>{"build-it", "use", "clean", "last"}));
  // One that is asked for brings its fixtures along.
  EXPECT_EQ(run({"use"}).size(), 3U);
}

TEST_F(SmokeTest, WithoutItsFixtureATestIsSkipped) {
  declare("build-it", "exit 1").sets_up = {"yard"};
  declare("use", "exit 0").requires_ = {"yard"};
  const auto checks = run();
  EXPECT_EQ(checks[0].verdict, Verdict::failed);
  EXPECT_EQ(checks[1].verdict, Verdict::skipped);
}

TEST_F(SmokeTest, TestsThatWaitForEachOtherStillRunOnce) {
  declare("a", "exit 0").after = {"b"};
  declare("b", "exit 0").after = {"a"};
  EXPECT_EQ(run().size(), 2U);
}

}  // namespace
}  // namespace coctilis::smoke
