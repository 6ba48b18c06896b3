// Steps of recipes: the time rule of makefiles where nothing is known, contents from then on, and what other makes did.
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "engine/engine.h"
#include "support.h"

namespace coctilis::engine {
namespace {

using model::StepState;

class Quiet : public Observer {
 public:
  void step_ended(std::size_t, const model::StepResult&) override {}
  void progress(const Progress&) override {}
};

class ByTime : public testing::Test {
 protected:
  ByTime() {
    plan_.tree = plan_.work = work_;
    plan_.kiln = tree_.kiln();
    files::make_folder(work_);
    write("clay", "red\n", -100);
    step("brick", {"clay"}, "echo x >>log; cp clay brick");
  }
  void step(const std::string& output, const std::vector<std::string>& inputs, const std::string& line) {
    model::Step s;
    s.kind = model::StepKind::custom;
    s.subject = output;
    s.outputs = {work_ + "/" + output};
    for (const auto& input : inputs) s.inputs.push_back(work_ + "/" + input);
    s.actions = {{model::Action::How::shell, {line}, work_, {}}};
    s.by_time = true;
    plan_.steps.push_back(s);
  }
  // Written `seconds` from now.
  void write(const std::string& name, const std::string& text, int seconds) const {
    files::write(work_ + "/" + name, text);
    struct timespec time {};
    ::clock_gettime(CLOCK_REALTIME, &time);
    time.tv_sec += seconds;
    const struct timespec times[2] = {time, time};
    ASSERT_EQ(::utimensat(AT_FDCWD, (work_ + "/" + name).c_str(), times, 0), 0);
  }
  Request request() const {
    Request out;
    out.selection.assign(plan_.steps.size(), true);
    out.jobs = 2;
    out.others_make = others_make_;
    return out;
  }
  model::StepResult build() {
    Quiet observer;
    auto outcome = engine::build(plan_, request(), observer);
    EXPECT_TRUE(outcome.ok()) << (outcome.ok() ? "" : outcome.problem().what);
    return outcome ? outcome->steps[0] : model::StepResult{};
  }
  // How often the recipe has run.
  [[nodiscard]] std::size_t runs() const { return files::read(work_ + "/log").value_or("").size() / 2; }

  test::TreeFolder tree_;
  const std::string work_ = tree_.kiln() + "/work";
  model::Plan plan_;
  bool others_make_ = true;
};

TEST_F(ByTime, WhatCameWithTheTreeCounts) {
  write("brick", "ready made\n", -50);
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(runs(), 0U);
}

TEST_F(ByTime, WhatIsOlderThanItsInputsIsMade) {
  write("brick", "old\n", -200);
  EXPECT_NE(build().reason.find("clay is newer"), std::string::npos);
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(runs(), 1U);
}

TEST_F(ByTime, OnceKnownContentsCount) {
  build();
  write("clay", "red\n", 100);  // only touched
  EXPECT_EQ(build().state, StepState::up_to_date);
  write("clay", "tan\n", -500);  // another, and older than the result
  EXPECT_NE(build().reason.find("clay has changed"), std::string::npos);
  EXPECT_EQ(runs(), 2U);
}

TEST_F(ByTime, WhatAnotherMakeMadeSinceCounts) {
  build();
  ::usleep(20000);
  write("clay", "tan\n", 0);
  ::usleep(20000);
  files::write(work_ + "/brick", "tan\n");
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(runs(), 1U);
  // From now on this is what is known.
  ::usleep(20000);
  write("clay", "grey\n", 0);
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(runs(), 2U);
}

TEST_F(ByTime, WithoutOtherMakesItDoesNot) {
  others_make_ = false;
  build();
  ::usleep(20000);
  files::write(work_ + "/brick", "tampered\n");
  EXPECT_NE(build().reason.find("changed by something else"), std::string::npos);
  EXPECT_EQ(runs(), 2U);
}

TEST_F(ByTime, AResultThatIsOlderThanTheChangeIsMadeAgain) {
  build();
  ::usleep(20000);
  files::write(work_ + "/brick", "by another\n");
  ::usleep(20000);
  write("clay", "tan\n", 0);
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(files::read(work_ + "/brick"), "tan\n");
}

TEST_F(ByTime, AResultThatIsAsItWasMadeIsNotNewlyMade) {
  // The change has an older time, as when an earlier version of a file is put back: the record tells.
  build();
  write("clay", "tan\n", -1000);
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(files::read(work_ + "/brick"), "tan\n");
}

TEST_F(ByTime, AMissingResultOrInputIsNeverMadeByOthers) {
  build();
  std::filesystem::remove(work_ + "/brick");
  EXPECT_NE(build().reason.find("is missing"), std::string::npos);
  EXPECT_EQ(runs(), 2U);
}

TEST_F(ByTime, AllResultsHaveToBeNew) {
  plan_.steps[0].outputs.push_back(work_ + "/chips");
  plan_.steps[0].actions[0].argv[0] += "; cp clay chips";
  build();
  ::usleep(20000);
  write("clay", "tan\n", 0);
  ::usleep(20000);
  files::write(work_ + "/brick", "tan\n");
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(files::read(work_ + "/chips"), "tan\n");
}

TEST_F(ByTime, AnotherCommandIsAnotherResult) {
  build();
  plan_.steps[0].actions[0].argv[0] += " ";
  EXPECT_NE(build().reason.find("command"), std::string::npos);
}

TEST_F(ByTime, AnotherCommandOfWhichAnotherMakeKnewIsNone) {
  build();
  ::usleep(20000);
  files::write(work_ + "/brick", "by another\n");
  plan_.steps[0].actions[0].argv[0] += " ";
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(build().state, StepState::up_to_date);
  plan_.steps[0].actions[0].argv[0] += " ";
  EXPECT_NE(build().reason.find("command"), std::string::npos);
}

TEST_F(ByTime, HowDeepAMakeIsCalledIsNoPartOfTheCommand) {
  plan_.steps[0].actions[0].environment = {{"MAKELEVEL", "1"}, {"CONE", "6"}};
  build();
  plan_.steps[0].actions[0].environment["MAKELEVEL"] = "4";
  EXPECT_EQ(build().state, StepState::up_to_date);
  plan_.steps[0].actions[0].environment["CONE"] = "7";
  EXPECT_EQ(build().state, StepState::unchanged);
}

TEST_F(ByTime, WhatIsOnlyTouchedIsForgotten) {
  build();
  ::usleep(20000);
  write("clay", "tan\n", 0);
  ::usleep(20000);
  const auto recipe = plan_.steps[0].actions;
  plan_.steps[0].actions = {{model::Action::How::builtin, {"touch", work_ + "/brick"}, work_, {}}};
  Quiet observer;
  auto touching = request();
  touching.touches = true;
  ASSERT_TRUE(engine::build(plan_, touching, observer).ok());
  plan_.steps[0].actions = recipe;
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(files::read(work_ + "/brick"), "red\n");
  EXPECT_EQ(runs(), 1U);
}

TEST_F(ByTime, LookingChangesNothing) {
  build();
  ::usleep(20000);
  write("clay", "tan\n", 0);
  ::usleep(20000);
  files::write(work_ + "/brick", "tan\n");
  const auto due = anything_to_do(plan_, request());
  ASSERT_TRUE(due.ok());
  EXPECT_FALSE(*due);
  ::usleep(20000);
  write("clay", "grey\n", 0);
  const auto now = anything_to_do(plan_, request());
  ASSERT_TRUE(now.ok());
  EXPECT_TRUE(*now);
  EXPECT_EQ(runs(), 1U);
}

}  // namespace
}  // namespace coctilis::engine
