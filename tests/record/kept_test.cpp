// What is kept comes back whole, or not at all.
#include "record/kept.h"

#include "support.h"

namespace coctilis::test {
namespace {

bool follow(const std::string&, const std::string&) { return true; }

class KeptTest : public testing::Test {
 protected:
  void SetUp() override {
    kept_.project.name = "yard";
    kept_.project.by_recipes = true;
    kept_.project.options = {{"GLAZED", "switch", "ON", "OFF", "with glaze", {"CMakeLists.txt", 3, 0}}};
    model::Outline outline;
    outline.kind = model::Outline::Kind::commands;
    outline.name = "kiln";
    outline.include_folders = {"/yard/clay"};
    outline.standards = {{"C++", 17}};
    kept_.project.outlines = {outline};
    model::Environment shared({{"CLAY", "red"}});
    for (const char* name : {"a", "b"}) {
      model::Step step;
      step.kind = model::StepKind::link;
      step.subject = name;
      step.actions = {{model::Action::How::shell, {"sh", "-c", std::string("x\0y", 3)}, "/yard", shared, true, false}};
      step.outputs = {std::string("/yard/") + name};
      step.by_time = true;
      step.key = 7;
      kept_.plan.steps.push_back(step);
    }
    kept_.plan.shown = {{"bin/kiln", "work/kiln"}};
    kept_.findings.resize(1);
    kept_.findings[0].requirement.name = "zlib";
    kept_.findings[0].usage.link_items = {"-lz"};
    kept_.questions = {{"HAVE_CLAY", "check", {}, "1", "C", "int x;", "cc", "compiled", "", false}};
  }
  std::string keep(const std::string& key) {
    Observed observed;
    {
      const Observation observation(observed);
      static_cast<void>(files::read(tree_.path("description")));
    }
    return record::keep(file(), key, observed, kept_);
  }
  [[nodiscard]] std::string file() const { return tree_.scratch() + "/kept"; }
  record::Taken take(const std::string& key) { return record::take(file(), key, follow); }

  TreeFolder tree_;
  record::Kept kept_;
  const std::string key_ = record::key_of("one");
};

TEST_F(KeptTest, EverythingComesBack) {
  ASSERT_EQ(keep(key_), "");
  const auto taken = take(key_);
  ASSERT_TRUE(taken.kept.has_value()) << taken.why_not;
  const auto& project = taken.kept->project;
  EXPECT_EQ(project.name, "yard");
  EXPECT_TRUE(project.by_recipes);
  EXPECT_EQ(project.options.at(0).help, "with glaze");
  EXPECT_EQ(project.options.at(0).place.line, 3);
  ASSERT_EQ(project.outlines.size(), 1U);
  EXPECT_EQ(project.outlines[0].kind, model::Outline::Kind::commands);
  EXPECT_EQ(project.outlines[0].name, "kiln");
  EXPECT_EQ(project.outlines[0].include_folders.at(0), "/yard/clay");
  EXPECT_EQ(project.outlines[0].standards.at("C++"), 17);
  ASSERT_EQ(taken.kept->plan.steps.size(), 2U);
  const auto& step = taken.kept->plan.steps[1];
  EXPECT_EQ(step.kind, model::StepKind::link);
  EXPECT_EQ(step.actions.at(0).argv.at(2), std::string("x\0y", 3));
  EXPECT_TRUE(step.actions.at(0).may_fail);
  EXPECT_EQ(step.actions.at(0).environment.values().at("CLAY"), "red");
  EXPECT_TRUE(step.by_time);
  EXPECT_EQ(step.key, 7U);
  EXPECT_EQ(taken.kept->plan.shown.at("bin/kiln"), "work/kiln");
  EXPECT_EQ(taken.kept->findings.at(0).usage.link_items.at(0), "-lz");
  EXPECT_EQ(taken.kept->questions.at(0).end, "compiled");
}

TEST_F(KeptTest, CopiesOfAnEnvironmentStillShareIt) {
  ASSERT_EQ(keep(key_), "");
  auto taken = take(key_);
  ASSERT_TRUE(taken.kept.has_value());
  auto& steps = taken.kept->plan.steps;
  EXPECT_EQ(&steps[0].actions[0].environment.values(), &steps[1].actions[0].environment.values());
  steps[0].actions[0].environment["CLAY"] = "grey";
  EXPECT_EQ(steps[1].actions[0].environment.values().at("CLAY"), "red");
}

TEST_F(KeptTest, NothingIsTakenUnderAnotherKeyOrWhenWhatItHungOnIsAnother) {
  EXPECT_NE(take(key_).why_not, "");
  ASSERT_EQ(keep(key_), "");
  EXPECT_FALSE(take(record::key_of("two")).kept.has_value());
  tree_.write("description", "");
  const auto taken = take(key_);
  EXPECT_FALSE(taken.kept.has_value());
  EXPECT_NE(taken.why_not.find("description is there now"), std::string::npos) << taken.why_not;
}

TEST_F(KeptTest, WhatDoesNotSettleTakesTheOldAway) {
  ASSERT_EQ(keep(key_), "");
  Observed observed;
  observed.spoil("a command was run");
  EXPECT_EQ(record::keep(file(), key_, observed, kept_), "a command was run");
  EXPECT_FALSE(files::is_file(file()));
}

TEST_F(KeptTest, AnyDamageIsNoticed) {
  ASSERT_EQ(keep(key_), "");
  const std::string whole = files::read(file()).value();
  for (std::size_t at = 0; at < whole.size(); at += 1 + whole.size() / 97) {
    std::string damaged = whole;
    damaged[at] = static_cast<char>(damaged[at] ^ 0x20);
    files::write(file(), damaged);
    EXPECT_FALSE(take(key_).kept.has_value()) << at;
    files::write(file(), whole.substr(0, at));
    EXPECT_FALSE(take(key_).kept.has_value()) << at;
  }
  files::write(file(), whole);
  EXPECT_TRUE(take(key_).kept.has_value());
}

TEST_F(KeptTest, FoldersThatFollowOthersAreBroughtInStepFirst) {
  Observed observed;
  tree_.write("copy/x", "");
  {
    const Observation observation(observed);
    observe::follows(tree_.path("tree"), tree_.path("copy"));
    static_cast<void>(files::read(tree_.path("copy/x")));
  }
  ASSERT_EQ(record::keep(file(), key_, observed, kept_), "");
  std::string asked;
  const auto changing = [&](const std::string& from, const std::string& to) {
    asked = from + ">" + to;
    files::write(to + "/x", "new");
    return true;
  };
  EXPECT_FALSE(record::take(file(), key_, changing).kept.has_value());
  EXPECT_EQ(asked, tree_.path("tree") + ">" + tree_.path("copy"));
  EXPECT_FALSE(record::take(file(), key_, [](const auto&, const auto&) { return false; }).kept.has_value());
}

TEST(KeptKey, ChangesWithWhatHasASay) {
  model::Run run;
  run.tree = "/yard";
  run.settings.options["GLAZED"] = "ON";
  const std::string before = record::key_of(run, {{"CC", "gcc"}});
  EXPECT_EQ(before, record::key_of(run, {{"CC", "gcc"}, {"COCTILIS_MAKE_JOBS", "7"}}));
  EXPECT_NE(before, record::key_of(run, {{"CC", "clang"}}));
  auto other = run;
  other.settings.jobs = 7;
  other.settings.rerun = true;
  EXPECT_EQ(before, record::key_of(other, {{"CC", "gcc"}}));
  other.settings.options["GLAZED"] = "OFF";
  EXPECT_NE(before, record::key_of(other, {{"CC", "gcc"}}));
  other = run;
  other.toolchain.compilers["C"].identity = "another";
  EXPECT_NE(before, record::key_of(other, {{"CC", "gcc"}}));
  other = run;
  other.survey.hazards = {{"dangling link", "data/clays", ""}};
  EXPECT_NE(before, record::key_of(other, {{"CC", "gcc"}}));
}

}  // namespace
}  // namespace coctilis::test
