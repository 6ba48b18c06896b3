// Steps of recipes: the time rule of makefiles for what came with the tree, contents from then on, and what other makes
// of the same kiln made.
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <set>

#include "engine/engine.h"
#include "engine/journal.h"
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
    out.given = [this](const std::string& path) { return given_.contains(path); };
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
  std::set<std::string> given_;
};

TEST_F(ByTime, WhatCameWithTheTreeCounts) {
  given_ = {work_ + "/brick"};
  write("brick", "ready made\n", -50);
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(runs(), 0U);
}

TEST_F(ByTime, OfWhatDidNotNobodyKnowsWhatItWasMadeFrom) {
  // As when the journal was lost.
  write("brick", "made some time\n", -50);
  EXPECT_NE(build().reason.find("nobody knows what brick was made from"), std::string::npos);
  EXPECT_EQ(files::read(work_ + "/brick"), "red\n");
}

TEST_F(ByTime, WhatIsOlderThanItsInputsIsMade) {
  given_ = {work_ + "/brick"};
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

TEST_F(ByTime, WhatAnotherMakeMadeFromWhatIsThereNowCounts) {
  build();
  write("clay", "tan\n", -500);
  plan_.maker = 2;
  EXPECT_EQ(build().state, StepState::done);
  plan_.maker = 0;
  EXPECT_EQ(build().state, StepState::up_to_date);
  EXPECT_EQ(runs(), 2U);
  // From now on this is what is known.
  write("clay", "grey\n", 0);
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(runs(), 3U);
}

TEST_F(ByTime, WhatAnotherMakeMadeOtherwiseCountsWhileThisOneKnowsNoOtherCommand) {
  build();
  plan_.maker = 2;
  plan_.steps[0].actions[0].environment = {{"GLAZE", "blue"}};
  EXPECT_EQ(build().state, StepState::up_to_date);
  plan_.steps[0].actions[0].environment = {{"GLAZE", "green"}};
  EXPECT_EQ(build().reason, "a variable of its environment has changed");
}

TEST_F(ByTime, WhatIsRewrittenByHandIsNot) {
  build();
  for (const int seconds : {0, 100, -1000}) {
    write("brick", "tampered\n", seconds);
    EXPECT_NE(build().reason.find("changed by something else"), std::string::npos);
    EXPECT_EQ(files::read(work_ + "/brick"), "red\n");
  }
}

TEST_F(ByTime, ModesOfResultsCount) {
  build();
  ::chmod((work_ + "/brick").c_str(), 0755);
  EXPECT_NE(build().reason.find("the mode of brick was changed"), std::string::npos);
  struct stat info {};
  ASSERT_EQ(::stat((work_ + "/brick").c_str(), &info), 0);
  EXPECT_EQ(info.st_mode & 0111U, 0U);
}

TEST_F(ByTime, AResultPutBackFromAnotherStateIsMadeAgain) {
  build();
  const auto red = *files::read(work_ + "/brick");
  write("clay", "tan\n", 0);
  build();
  write("brick", red, 100);
  EXPECT_EQ(build().state, StepState::unchanged);
  EXPECT_EQ(files::read(work_ + "/brick"), "tan\n");
}

TEST_F(ByTime, AStepThatWasCutOffIsDoneAgain) {
  build();
  write("clay", "tan\n", 0);
  {
    Journal journal(plan_.kiln + "/journal");
    journal.begin_step(journal.id(work_ + "/brick"), 0);
  }
  // Whole or half: nobody knows.
  write("brick", "tan\n", 100);
  given_ = {work_ + "/brick"};
  EXPECT_NE(build().reason.find("did not come to its end"), std::string::npos);
}

TEST_F(ByTime, AMissingResultIsMade) {
  build();
  std::filesystem::remove(work_ + "/brick");
  EXPECT_NE(build().reason.find("is missing"), std::string::npos);
  EXPECT_EQ(runs(), 2U);
}

TEST_F(ByTime, AnInputThatNobodyNamedBeforeCounts) {
  build();
  write("sand", "fine\n", -1000);
  plan_.steps[0].inputs.push_back(work_ + "/sand");
  EXPECT_NE(build().reason.find("sand is needed now, too"), std::string::npos);
  EXPECT_EQ(build().state, StepState::up_to_date);
}

TEST_F(ByTime, AnArchiveOfOtherMembersIsBegunAnew) {
  write("a.o", "a\n", 0);
  write("b.o", "b\n", 0);
  step("pile.a", {"a.o", "b.o"}, "cat a.o b.o >>pile.a");
  plan_.steps[1].kind = model::StepKind::archive;
  build();
  plan_.steps[1].inputs.pop_back();
  plan_.steps[1].actions[0].argv[0] = "cat a.o >>pile.a";
  build();
  EXPECT_EQ(files::read(work_ + "/pile.a"), "a\n");
}

TEST_F(ByTime, AnotherCommandIsAnotherResult) {
  build();
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
  // Nobody knows what it was made from: it is made the next time.
  EXPECT_EQ(build().state, StepState::done);
  EXPECT_EQ(files::read(work_ + "/brick"), "tan\n");
}

TEST_F(ByTime, LookingChangesNothing) {
  build();
  const auto due = anything_to_do(plan_, request());
  ASSERT_TRUE(due.ok());
  EXPECT_FALSE(*due);
  write("clay", "grey\n", -1000);
  const auto now = anything_to_do(plan_, request());
  ASSERT_TRUE(now.ok());
  EXPECT_TRUE(*now);
  EXPECT_EQ(runs(), 1U);
}

}  // namespace
}  // namespace coctilis::engine
