// What a run leaves, and what the doctor says.
#include "report/report.h"

#include "doctor/doctor.h"
#include "locate/locator.h"
#include "record/record.h"
#include "report/critical.h"
#include "report/figures/figures.h"
#include "report/sentences.h"
#include "support.h"

namespace coctilis::report {
namespace {

model::Run sample() {
  model::Run run;
  run.tree = "/yard";
  run.kiln = "/yard/kiln/gcc12-x86_64-release";
  run.label = "gcc12-x86_64-release";
  run.started = "2026-11-24T00:00:00Z";
  run.settings.variant = "release";
  run.survey.files = 3;
  run.survey.languages = {{"C", 2, 40, 3, 1}};
  run.survey.descriptions = {{"CMakeLists.txt", "CMakeLists.txt", true, true, "the only one"}};
  run.toolchain.name = "gcc 12";
  run.toolchain.family = "gcc";
  run.toolchain.version = "12.2.0";
  run.toolchain.machine = "x86_64-linux-gnu";
  model::Finding found;
  found.requirement = {model::RequirementKind::library, "zlib", ">= 1.2", true, "find_package",
                       {"CMakeLists.txt", 4, 1}};
  found.found = true;
  found.version = "1.2.13";
  model::Finding absent;
  absent.requirement = {model::RequirementKind::package, "ClayKit", "", false, "find_package",
                        {"CMakeLists.txt", 5, 1}};
  absent.looked = {"/usr/lib/cmake/ClayKit"};
  run.findings = {found, absent};
  model::Step step;
  step.kind = model::StepKind::compile;
  step.target = "press";
  step.subject = "press.c";
  step.outputs = {"/yard/kiln/press.o"};
  run.plan.steps = {step};
  model::PlannedTarget target;
  target.name = "press";
  target.steps = {0};
  run.plan.targets = {target};
  run.outcome.steps.resize(1);
  run.outcome.steps[0].state = model::StepState::done;
  run.outcome.steps[0].seconds = 0.25;
  run.outcome.ran = 1;
  run.outcome.seconds = 0.3;
  run.built = true;
  return run;
}

TEST(Report, JsonHasTheDocumentedKeys) {
  const auto json = nlohmann::json::parse(run_json(sample()));
  for (const char* key :
       {"schema",  "coctilis", "tree",     "label",   "kiln",    "exit",      "problem",    "command",
        "started", "seconds",  "run",      "variant", "survey",  "toolchain", "toolchains", "requirements",
        "options", "project",  "messages", "remarks", "targets", "build",     "checks"}) {
    EXPECT_TRUE(json.contains(key)) << key;
  }
  EXPECT_TRUE(json["problem"].is_null());
  EXPECT_EQ(json["requirements"][0]["place"]["line"], 4);
  EXPECT_TRUE(json["requirements"][1].contains("searched"));
  EXPECT_EQ(json["build"]["steps"][0]["state"], "done");
}

TEST(Report, ForeignBytesStayHarmless) {
  auto run = sample();
  run.outcome.steps[0].state = model::StepState::failed;
  run.outcome.steps[0].output = "\xff\x1b[2J<script>alert(1)</script>";
  run.outcome.failures = {0};
  run.outcome.failed = 1;
  run.problem = Problem{Exit::step, {"<b>", 1, 0}, "bad \xfe byte", "", "", {}};
  run.survey.hazards = {{"blank in the path", "a b\xff", ""}};
  EXPECT_TRUE(nlohmann::json::accept(run_json(run)));
  const std::string html = page(run, {});
  EXPECT_EQ(html.find("<script>alert"), std::string::npos);
  EXPECT_EQ(html.find("<b>:1"), std::string::npos);
  EXPECT_EQ(html.find('\x1b'), std::string::npos);
  EXPECT_EQ(summary(run).find('\x1b'), std::string::npos);
}

TEST(Report, PageNeedsNothingFromOutside) {
  const std::string html = page(sample(), {});
  for (const char* outside : {"http://", "https://", "src=\"", "@import", "url("})
    EXPECT_EQ(html.find(outside), std::string::npos) << outside;
  EXPECT_NE(html.find(">passed</span>"), std::string::npos);
}

TEST(Report, NothingCanBeFetchedByIt) {
  EXPECT_NE(page(sample(), {}).find("Content-Security-Policy\" content=\"default-src 'none';"), std::string::npos);
}

TEST(Report, ThePageOfAVeryLargeBuildStaysSmall) {
  auto run = sample();
  for (int i = 0; i < 100000; ++i) {
    auto step = run.plan.steps.front();
    step.subject = "yard/part" + std::to_string(i % 300) + "/source_of_the_works_" + std::to_string(i) + ".c";
    run.plan.steps.push_back(step);
    auto result = run.outcome.steps.front();
    result.started = i / 8.0;
    result.seconds = 1;
    run.outcome.steps.push_back(result);
  }
  Material material;
  for (std::size_t i = 0; i < run.plan.steps.size(); ++i)
    material.run.bars.push_back(
        {"compile", run.plan.steps[i].subject, "yard", run.outcome.steps[i].started, 1, false, false});
  EXPECT_LT(page(run, figures_of(material)).size(), 5U << 20U);
}

TEST(Report, TheStepsThatTheEndWaitedFor) {
  model::Plan plan;
  model::Outcome outcome;
  const auto step = [&](const std::string& output, std::vector<std::string> inputs, double began, double seconds) {
    plan.steps.emplace_back();
    plan.steps.back().outputs = {output};
    plan.steps.back().inputs = std::move(inputs);
    outcome.steps.emplace_back();
    outcome.steps.back().started = began;
    outcome.steps.back().seconds = seconds;
  };
  step("/a.o", {"/a.c"}, 0, 3);
  step("/b.o", {"/b.c"}, 0, 1);
  step("/kiln", {"/a.o", "/b.o"}, 3, 1);
  step("/other", {}, 0, 2);
  EXPECT_EQ(critical_steps(plan, outcome), (std::vector<bool>{true, false, true, false}));
  outcome.steps.assign(4, {});
  EXPECT_EQ(critical_steps(plan, outcome), std::vector<bool>(4, false));
}

TEST(Report, SentencesSayWhatWasLearned) {
  auto run = sample();
  EXPECT_EQ(survey_sentence(run.survey), "3 files, 40 lines of C; follows CMakeLists.txt");
  EXPECT_EQ(locate_sentence(run), "gcc 12.2.0 for x86_64-linux-gnu; zlib 1.2.13; optional, not found: ClayKit");
  EXPECT_EQ(build_sentence(run), "1 step in 300 ms");
  for (const char* option : {"-Wb", "-Wa", "-Wb"}) run.outcome.warnings.push_back({"warning", option, {}, "", 0});
  EXPECT_NE(build_sentence(run).find("3 warnings (2 -Wb, 1 -Wa)"), std::string::npos);
  run.outcome.ran = 0;
  run.outcome.up_to_date = 1;
  run.outcome.warnings.clear();
  EXPECT_EQ(build_sentence(run), "all 1 step up to date");
  EXPECT_EQ(smoke_sentence(run), "nothing to check");
  run.checks.resize(3);
  run.checks[1].verdict = model::Verdict::failed;
  run.checks[2].verdict = model::Verdict::skipped;
  EXPECT_EQ(smoke_sentence(run), "1 of 3 checks failed, 1 skipped");
}

TEST(Record, RunsAreNumberedAndTheLatestIsKnown) {
  const files::ScratchFolder scratch("record");
  auto run = sample();
  run.kiln = scratch.path().string();
  for (int expected = 1; expected <= 3; ++expected) {
    ASSERT_TRUE(record::keep(run).ok());
    EXPECT_EQ(run.number, expected);
  }
  EXPECT_EQ(record::numbers(run.kiln), (std::vector<int>{1, 2, 3}));
  EXPECT_EQ(std::filesystem::read_symlink(run.kiln + "/runs/latest"), "3");
  EXPECT_NE(files::read(run.kiln + "/runs/latest/log")->find("press.c"), std::string::npos);
}

// ---- the doctor
// ------------------------------------------------------------------------------------------------------

struct Symptom {
  const char* output;
  const char* failure;
  const char* remedy;
};
class DoctorTest : public testing::TestWithParam<Symptom> {};

TEST_P(DoctorTest, KnowsIt) {
  ::setenv("COCTILIS_SYSTEM_ROOT", "/no/such/system", 1);  // nothing is installed there
  ::setenv("PATH", "/no/such/folder", 1);
  model::Plan plan;
  plan.tree = "/no/such/tree";
  model::Step step;
  step.target = "press";
  step.place = {"CMakeLists.txt", 3, 1};
  model::StepResult result;
  result.output = GetParam().output;
  const auto found = doctor::diagnose(plan, step, result);
  ASSERT_FALSE(found.empty()) << GetParam().output;
  EXPECT_EQ(found[0].failure, GetParam().failure);
  EXPECT_NE(found[0].remedy.find(GetParam().remedy), std::string::npos) << found[0].remedy;
}

INSTANTIATE_TEST_SUITE_P(
    All, DoctorTest,
    testing::Values(
        Symptom{"a.c:1:10: fatal error: zlib.h: No such file or directory\n", "missing header",
                "apt-get install zlib1g-dev"},
        Symptom{"a.c:1:10: fatal error: 'curl/curl.h' file not found\n", "missing header", "libcurl4-openssl-dev"},
        Symptom{"a.c:1:10: \x1b[31mfatal error: \x1b[0mbrick.h: No such file or directory\n", "missing header",
                "--with PREFIX"},
        Symptom{"/usr/bin/ld: cannot find -lsqlite3: No such file or directory\n", "missing library", "libsqlite3-dev"},
        Symptom{"/usr/bin/ld: cannot find -lbrick\n", "missing library", "--with PREFIX"},
        Symptom{"a.o: in function `main':\na.c:(.text+0x5): undefined reference to `bake'\n", "undefined reference",
                "CMakeLists.txt:3"},
        Symptom{"ld: a.o: multiple definition of `bake'; b.o: first defined here\n", "multiple definition",
                "static or inline"},
        Symptom{"ld: a.o: relocation R_X86_64_32 can not be used when making a shared object; recompile with -fPIC\n",
                "not position independent", "POSITION_INDEPENDENT_CODE"},
        Symptom{"sh: 1: flex: not found\n", "missing command", "apt-get install flex"},
        Symptom{"fatal: cannot write: No space left on device\n", "disk full", "make room"},
        Symptom{"g++: fatal error: Killed signal terminated program cc1plus\n", "out of memory", "-j 1"},
        Symptom{"gcc: error: unrecognized command-line option '-fbake'\n", "unknown option", "--toolchain"}));

TEST(Doctor, AnIncludeFolderThatIsEmptyIsTheFirstSuspect) {
  const test::TreeFolder tree;
  tree.write("inc/clay.h", "");
  model::Plan plan;
  plan.tree = tree.path();
  plan.kiln = tree.kiln();
  model::Step step;
  step.target = "press";
  step.actions.resize(1);
  step.actions[0].folder = tree.path();
  model::StepResult result;
  result.output = "a.c:1:10: fatal error: slip.h: No such file or directory\n";
  result.command = "cc -Iinc -Iparts/slip -I" + tree.kiln() + "/none -I/no/such/folder -c a.c";
  const auto found = doctor::diagnose(plan, step, result);
  ASSERT_FALSE(found.empty());
  EXPECT_NE(found[0].remedy.find("'parts/slip' is empty or not there"), std::string::npos) << found[0].remedy;
  tree.write("parts/slip/other.h", "");
  EXPECT_EQ(doctor::diagnose(plan, step, result)[0].remedy.find("parts/slip"), std::string::npos);
}

TEST(Doctor, SaysNothingWhereItKnowsNothing) {
  model::StepResult result;
  result.output = "a.c:3:1: error: expected ';' before '}' token\n";
  EXPECT_TRUE(doctor::diagnose({}, {}, result).empty());
}

TEST(Report, MembersHaveATable) {
  model::Run run = sample();
  run.built = run.checked = true;
  model::Run clay = sample();
  clay.as_member.name = "clay";
  clay.number = 3;
  clay.label = "gcc12-x86_64-release";
  clay.options.kiln = "/yard/kiln/members/clay";
  clay.plan.targets[0].output = "/yard/kiln/libclay.so";
  clay.staged.files = {"lib/libclay.so", "include/clay.h"};
  model::Run again = clay;
  again.as_member.name = "glaze";
  again.plan.steps.clear();
  again.repeats = model::Repeats{1, 7, 7};
  model::Run oven;
  oven.as_member.name = "oven<b>";
  oven.problem = Problem{Exit::missing, {}, "needs clay", {}, {}, {}};
  oven.as_member.not_begun = true;
  run.members = {clay, again, oven};
  const std::string html = page(run, {});
  for (const char* text : {"members/clay/gcc12-x86_64-release/runs/3/report.html", "libclay.so; 2 files installed",
                           "not built: needs clay", "oven&lt;b&gt;", "<td>7</td>"})
    EXPECT_NE(html.find(text), std::string::npos) << text;
  EXPECT_EQ(html.find("up to date"), std::string::npos);  // the whole has no steps of its own
  EXPECT_EQ(member_sentence(clay), "clay: built, by CMakeLists.txt, 1 step, installed 2 files, 0 ms");
  EXPECT_EQ(member_sentence(again), "glaze: built, by CMakeLists.txt, 7 steps, installed 2 files, 0 ms");
  EXPECT_EQ(member_sentence(oven), "oven<b>: not built: needs clay");
  const auto json = nlohmann::json::parse(run_json(run));
  EXPECT_EQ(json["members"][1]["steps"], 7);
  EXPECT_EQ(json["members"][2]["problem"]["what"], "needs clay");
}

}  // namespace
}  // namespace coctilis::report
