#include "engine/engine.h"

#include <sys/stat.h>
#include <unistd.h>

#include "base/dependency_file.h"
#include "base/file_operations.h"
#include "base/loader.h"
#include "engine/diagnostics.h"
#include "support.h"

namespace coctilis::engine {
namespace {

using Words = std::vector<std::string>;
using model::StepState;

class Silent : public Observer {
 public:
  void step_ended(std::size_t step, const model::StepResult&) override { order.push_back(step); }
  void progress(const Progress&) override {}
  std::vector<std::size_t> order;
};

class EngineTest : public testing::Test {
 protected:
  EngineTest() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
  }
  std::string work(const std::string& name) const { return plan_.work + "/" + name; }
  // A step that runs a shell line in the work folder.
  std::size_t step(const std::string& output, const Words& inputs, const std::string& line) {
    model::Step s;
    s.kind = model::StepKind::generate;
    s.subject = output;
    s.outputs = {work(output)};
    for (const auto& input : inputs) s.inputs.push_back(input.starts_with('/') ? input : work(input));
    s.actions = {{model::Action::How::shell, {line}, plan_.work, {}}};
    plan_.steps.push_back(s);
    return plan_.steps.size() - 1;
  }
  model::Outcome build(bool keep_going = false) {
    observer_ = {};
    const Request request{std::vector<bool>(plan_.steps.size(), true), 3, keep_going, false};
    auto outcome = engine::build(plan_, request, observer_);
    EXPECT_TRUE(outcome.ok()) << (outcome.ok() ? "" : outcome.problem().what);
    return outcome ? *outcome : model::Outcome{};
  }
  test::TreeFolder tree_;
  model::Plan plan_;
  Silent observer_;
};

TEST_F(EngineTest, RunsInOrderAndOnlyOnce) {
  tree_.write("clay", "red");
  const auto brick = step("brick", {"dried"}, "cat dried > brick; echo fired >> brick");
  const auto dried = step("dried", {tree_.path("clay")}, "cat " + tree_.path("clay") + " > dried");
  EXPECT_EQ(build().ran, 2U);
  EXPECT_EQ(observer_.order, (std::vector<std::size_t>{dried, brick}));
  EXPECT_EQ(files::read(work("brick")), "redfired\n");
  EXPECT_EQ(build().up_to_date, 2U);
}

TEST_F(EngineTest, ACommandMayMakeAnotherFileThanItNames) {
  step("named", {}, "echo x >other");
  step("after", {"named"}, "cp other after");
  EXPECT_EQ(build().failed, 0U);
  EXPECT_EQ(files::read(work("after")), "x\n");
  // What is named and not there is tried anew each time.
  EXPECT_EQ(build().ran, 2U);
}

TEST_F(EngineTest, WhatNobodyMakesIsMissed) {
  step("after", {"nowhere"}, "true");
  const auto outcome = build();
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_NE(outcome.steps[0].end.find("nowhere is not there, and nothing makes it"), std::string::npos);
}

TEST_F(EngineTest, CommandsOfTheDescriptionWriteInTheKilnOnly) {
  tree_.write("clay", "red");
  step("out", {}, "echo x >out; echo x >" + tree_.path("clay"));
  EXPECT_EQ(build().steps[0].refused, false);
  EXPECT_EQ(tree_.read("clay"), "x\n");
  tree_.write("clay", "red");
  plan_.writable = {plan_.kiln};
  plan_.steps[0].always = true;
  const auto outcome = build();
  if (tree_.read("clay") != "red") GTEST_SKIP() << "this kernel has no Landlock";
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_TRUE(outcome.steps[0].refused);
}

// Their options are the description's words.
TEST_F(EngineTest, CompilersAreConfinedAndHaveTheirCaches) {
  tree_.write("clay", "red");
  tree_.write("cache/old", "");
  ASSERT_EQ(::setenv("CCACHE_DIR", tree_.path("cache").c_str(), 1), 0);
  plan_.writable = {plan_.kiln};
  step("out", {}, "echo x >out; echo x >" + tree_.path("cache/new") + "; echo x >" + tree_.path("clay"));
  plan_.steps[0].kind = model::StepKind::compile;
  plan_.steps[0].language = "C";
  const auto outcome = build();
  ::unsetenv("CCACHE_DIR");
  if (tree_.read("clay") != "red") GTEST_SKIP() << "this kernel has no Landlock";
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_EQ(tree_.read("cache/new"), "x\n");
}

TEST_F(EngineTest, AnOperationThatWouldWriteInTheTreeIsRefused) {
  plan_.writable = {plan_.kiln};
  step("out", {}, "echo x >out");
  plan_.steps[0].actions.push_back({model::Action::How::builtin, {"touch", tree_.path("clay")}, plan_.work, {}});
  auto outcome = build();
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_TRUE(outcome.steps[0].refused);
  EXPECT_FALSE(files::is_file(tree_.path("clay")));
  // A copy of the tree in the kiln may be written to.
  plan_.tree = plan_.kiln + "/tree";
  plan_.steps[0].actions[1].argv[1] = plan_.tree + "/clay";
  outcome = build();
  EXPECT_EQ(outcome.failed, 0U);
  EXPECT_FALSE(outcome.steps[0].refused);
  EXPECT_TRUE(files::is_file(plan_.tree + "/clay"));
}

TEST_F(EngineTest, AFolderForTemporaryFilesIsThereWhenOneIsNamed) {
  plan_.environment["TMPDIR"] = plan_.kiln + "/temporary";
  step("out", {}, "echo x >\"$TMPDIR/x\" && cp \"$TMPDIR/x\" out");
  EXPECT_EQ(build().failed, 0U);
}

TEST_F(EngineTest, ContentCountsNotTime) {
  tree_.write("clay", "red");
  step("brick", {tree_.path("clay")}, "cp " + tree_.path("clay") + " brick");
  build();
  tree_.write("clay", "red");  // written again, the same
  EXPECT_EQ(build().up_to_date, 1U);
  tree_.write("clay", "tan");  // the same length
  const auto outcome = build();
  EXPECT_EQ(outcome.ran, 1U);
  EXPECT_NE(outcome.steps[0].reason.find("clay has changed"), std::string::npos);
}

TEST_F(EngineTest, UnchangedResultStopsTheRest) {
  tree_.write("clay", "red");
  step("sieved", {tree_.path("clay")}, "tr -d ' ' < " + tree_.path("clay") + " > sieved");
  step("brick", {"sieved"}, "cp sieved brick");
  build();
  tree_.write("clay", "r e d");
  const auto outcome = build();
  EXPECT_EQ(outcome.steps[0].state, StepState::unchanged);
  EXPECT_EQ(outcome.steps[1].state, StepState::up_to_date);
}

TEST_F(EngineTest, RunsAgainForEveryGoodReason) {
  tree_.write("clay", "red");
  step("brick", {tree_.path("clay")}, "echo 1 > brick");
  build();
  std::filesystem::remove(work("brick"));
  EXPECT_NE(build().steps[0].reason.find("is missing"), std::string::npos);
  files::write(work("brick"), "tampered");
  EXPECT_NE(build().steps[0].reason.find("changed by something else"), std::string::npos);
  plan_.steps[0].actions[0].argv[0] += " ";
  EXPECT_NE(build().steps[0].reason.find("command"), std::string::npos);
  plan_.steps[0].identity = "another compiler";
  EXPECT_EQ(build().ran, 1U);
  EXPECT_EQ(build().ran, 0U);
}

TEST_F(EngineTest, HeadersFoundWhileRunningCount) {
  tree_.write("kiln.h", "1");
  step("kiln.o", {},
       "echo x > kiln.o; echo 'kiln.o: " + tree_.path("kiln.h") + " \\' > kiln.d; echo ' " + tree_.path("other.h") +
           "' >> kiln.d");
  tree_.write("other.h", "1");
  plan_.steps[0].dependency_file = work("kiln.d");
  ::usleep(30000);  // what is written in the very moment in which a step starts is not believed
  build();
  EXPECT_EQ(build().up_to_date, 1U);
  tree_.write("other.h", "2");
  EXPECT_EQ(build().ran, 1U);
}

TEST_F(EngineTest, FailureStopsWhatNeedsIt) {
  step("bad", {}, "echo half > bad; echo 'no clay' >&2; exit 3");
  step("user", {"bad"}, "cp bad user");
  auto outcome = build();
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_EQ(outcome.not_run, 1U);
  EXPECT_EQ(outcome.steps[0].end, "exit code 3");
  EXPECT_NE(outcome.steps[0].output.find("no clay"), std::string::npos);
  EXPECT_FALSE(files::is_file(work("bad")));  // half-written results do not stay
  step("free", {}, "echo > free");
  outcome = build(true);
  EXPECT_EQ(outcome.steps[2].state, StepState::done);
  plan_.steps[0].actions[0].argv[0] = "echo whole > bad";
  EXPECT_EQ(build().failed, 0U);
}

TEST_F(EngineTest, InputThatChangesWhileTheStepRunsCounts) {
  tree_.write("clay", "red");
  step("brick", {tree_.path("clay")}, "cp " + tree_.path("clay") + " brick; echo tan > " + tree_.path("clay"));
  tree_.write("kiln.h", "1");
  step("kiln.o", {},
       "cp " + tree_.path("kiln.h") + " kiln.o; sleep 0.05; echo 2 > " + tree_.path("kiln.h") +
           "; echo 'kiln.o: " + tree_.path("kiln.h") + "' > kiln.d");
  plan_.steps[1].dependency_file = work("kiln.d");
  build();
  EXPECT_EQ(build().ran, 2U);  // both saw the old content
}

TEST_F(EngineTest, InputThatNobodyMakesIsToldBeforeTheStepRuns) {
  step("brick", {"clay"}, "touch ran; echo > brick");
  const auto outcome = build();
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_NE(outcome.steps[0].end.find("nothing makes it"), std::string::npos);
  EXPECT_FALSE(files::is_file(work("ran")));
}

TEST_F(EngineTest, SignalBeforeAnythingRunsIsNoSuccess) {
  step("brick", {}, "echo > brick");
  interrupted_by = 2;
  const auto outcome = build();
  interrupted_by = 0;
  EXPECT_EQ(outcome.interrupted_by, 2);
  EXPECT_FALSE(outcome.good());
}

TEST_F(EngineTest, CirclesAndDoubleOutputsAreRefused) {
  step("a", {"b"}, "true");
  step("b", {"a"}, "true");
  const Request request{{true, true}, 1, false, false};
  auto outcome = engine::build(plan_, request, observer_);
  ASSERT_FALSE(outcome.ok());
  EXPECT_NE(outcome.problem().what.find("circle"), std::string::npos);
  EXPECT_TRUE(outcome.problem().cause == "a needs b needs a" || outcome.problem().cause == "b needs a needs b");
  plan_.steps[0].inputs.clear();
  plan_.steps[1] = plan_.steps[0];
  outcome = engine::build(plan_, request, observer_);
  ASSERT_FALSE(outcome.ok());
  EXPECT_NE(outcome.problem().what.find("two steps"), std::string::npos);
}

TEST_F(EngineTest, WarningsAreCounted) {
  step("a", {}, "echo 'kiln.c:3:5: warning: unused variable [-Wunused-variable]' >&2; echo > a");
  const auto outcome = build();
  ASSERT_EQ(outcome.warnings.size(), 1U);
  EXPECT_EQ(outcome.warnings[0].option, "-Wunused-variable");
  EXPECT_EQ(outcome.warnings[0].place.line, 3);
}

// ---- parts
// -----------------------------------------------------------------------------------------------------------

TEST(DependencyFile, MakeRuleSyntax) {
  EXPECT_EQ(parse_dependency_file("kiln.o: kiln.c \\\n a\\ b.h $$x.h \\\n\tc.h\nkiln.h:\n"),
            (Words{"kiln.c", "a b.h", "$x.h", "c.h"}));
  EXPECT_EQ(parse_dependency_file("C:x.o : y.c\r\n"), Words{"y.c"});
  EXPECT_TRUE(parse_dependency_file("").empty());
}

TEST(Diagnostics, FirstErrorIsWhole) {
  const std::string output =
      "a.c: In function 'f':\na.c:1:1: warning: w [-Wx]\n    1 | x\nIn file included from a.c:1:\na.h:2:3: error: 'y' "
      "undeclared\n    2 | y;\n      | ^\na.h:2:3: note: each only once\na.c:9:1: error: second\n";
  EXPECT_EQ(first_error(output),
            "In file included from a.c:1:\na.h:2:3: error: 'y' undeclared\n    2 | y;\n      | ^\na.h:2:3: note: each "
            "only once\n");
  EXPECT_EQ(first_error("/usr/bin/ld: nothing\n"), "/usr/bin/ld: nothing\n");
  const auto found = find_diagnostics(output, 4);
  ASSERT_EQ(found.size(), 3U);
  EXPECT_EQ(found[1].place.column, 3);
  EXPECT_EQ(found[1].severity, "error");
}

TEST(Loader, FollowsLibraries) {
  const auto result = resolve_libraries("/proc/self/exe");
  EXPECT_TRUE(result.is_elf);
  EXPECT_FALSE(result.found.empty());
  EXPECT_TRUE(result.missing.empty());
  EXPECT_FALSE(resolve_libraries("/etc/passwd").is_elf);
}

}  // namespace
}  // namespace coctilis::engine
