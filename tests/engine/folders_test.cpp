// Steps that fill folders with names of their own, as compilers of whole units do.
#include <sys/stat.h>

#include "engine/engine.h"
#include "plan/planner.h"
#include "support.h"

namespace coctilis::engine {
namespace {

using model::StepState;

struct Unheard : Observer {
  void step_ended(std::size_t, const model::StepResult&) override {}
  void progress(const Progress&) override {}
};

// A unit of sources in a folder that is compiled whole: a file of results for each word in each source; and a program
// that packs all of them.
class Folders : public testing::Test {
 protected:
  Folders() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
    tree_.write("clays/red.clay", "loam\nmarl\n");
    tree_.write("clays/white.clay", "kaolin\n");
    model::Step whole;
    whole.kind = model::StepKind::compile;
    whole.subject = "clays";
    whole.outputs = {work("clays.done")};
    whole.input_folders = {tree_.path("clays")};
    whole.output_folders = {work("classes")};
    whole.actions = {{model::Action::How::shell,
                      {"mkdir -p classes/deep; for w in $(cat " + tree_.path("clays") +
                       "/*); do echo \"$w fired\" >classes/deep/$w; done; echo $((1)) >clays.done"},
                      plan_.work,
                      {}}};
    plan_.steps.push_back(whole);
    model::Step pack;
    pack.kind = model::StepKind::generate;
    pack.subject = "pack";
    pack.outputs = {work("pack")};
    pack.input_folders = {work("classes")};
    pack.actions = {{model::Action::How::shell, {"cat classes/deep/* >pack"}, plan_.work, {}}};
    plan_.steps.push_back(pack);
  }
  std::string work(const std::string& name) const { return plan_.work + "/" + name; }
  model::Outcome build() {
    Unheard unheard;
    Request request;
    request.selection.assign(plan_.steps.size(), true);
    request.jobs = 2;
    request.sweeps = true;
    auto outcome = engine::build(plan_, request, unheard);
    EXPECT_TRUE(outcome.ok()) << (outcome.ok() ? "" : outcome.problem().what);
    return outcome ? *outcome : model::Outcome{};
  }
  std::string packed() const { return files::read(work("pack")).value_or(""); }
  test::TreeFolder tree_;
  model::Plan plan_;
};

TEST_F(Folders, AreFilledOnceAndUsedAsAWhole) {
  EXPECT_EQ(build().ran, 2U);
  EXPECT_EQ(packed(), "kaolin fired\nloam fired\nmarl fired\n");
  EXPECT_EQ(build().up_to_date, 2U);
}

TEST_F(Folders, ChangesOfWhatLiesInThemCount) {
  build();
  tree_.write("clays/red.clay", "loam\n");
  EXPECT_EQ(build().ran, 2U);
  EXPECT_EQ(packed(), "kaolin fired\nloam fired\n");  // what is made no more is gone
  tree_.write("clays/new/blue.clay", "shale\n");      // another file, which changes nothing of the result
  auto outcome = build();
  EXPECT_EQ(outcome.steps[0].reason, "what lies in clays has changed");
  EXPECT_EQ(outcome.steps[0].state, StepState::unchanged);
  EXPECT_EQ(outcome.steps[1].state, StepState::up_to_date);
  std::filesystem::remove_all(tree_.path("clays/new"));
  std::filesystem::remove(tree_.path("clays/white.clay"));
  EXPECT_EQ(build().ran, 2U);
  EXPECT_EQ(packed(), "loam fired\n");
}

TEST_F(Folders, MeddlingWithResultsIsSeen) {
  build();
  const auto again = [&](const char* how) {
    const auto outcome = build();
    EXPECT_EQ(outcome.steps[0].reason, "what lies in classes was changed by something else") << how;
    EXPECT_EQ(packed(), "kaolin fired\nloam fired\nmarl fired\n") << how;
    EXPECT_EQ(build().up_to_date, 2U) << how;
  };
  files::write(work("classes/deep/loam"), "raw\n");
  again("another content");
  files::write(work("classes/deep/slate"), "raw\n");
  again("another file");
  EXPECT_FALSE(files::is_file(work("classes/deep/slate")));
  std::filesystem::remove(work("classes/deep/marl"));
  again("a file less");
  ::chmod(work("classes/deep/marl").c_str(), 0777);
  again("another mode");
  std::filesystem::remove_all(work("classes"));
  EXPECT_EQ(build().ran, 1U);  // what uses it finds it as it was
  EXPECT_EQ(packed(), "kaolin fired\nloam fired\nmarl fired\n");
}

TEST_F(Folders, OneFileOfThemCanBeNeeded) {
  plan_.steps[1].input_folders.clear();
  plan_.steps[1].inputs = {work("classes/deep/loam")};
  EXPECT_EQ(build().ran, 2U);
  EXPECT_EQ(build().up_to_date, 2U);
  tree_.write("clays/white.clay", "ash\n");
  const auto outcome = build();
  EXPECT_EQ(outcome.steps[0].state, StepState::done);
  EXPECT_EQ(outcome.steps[1].state, StepState::up_to_date);  // that file is as it was
  const auto selected = plan::select_steps(plan_, {"classes/deep/loam"});
  ASSERT_TRUE(selected.ok());
  EXPECT_EQ(*selected, (std::vector<bool>{true, false}));
}

TEST_F(Folders, FailingLeavesNothingHalfMade) {
  build();
  plan_.steps[0].actions[0].argv[0] += "; exit 1";
  EXPECT_EQ(build().failed, 1U);
  EXPECT_FALSE(files::is_folder(work("classes")));
}

TEST_F(Folders, AreTakenAwayWithTheirStep) {
  build();
  plan_.steps.pop_back();
  plan_.steps[0].outputs = {work("other.done")};
  plan_.steps[0].output_folders.clear();
  plan_.steps[0].actions = {{model::Action::How::shell, {"echo >other.done"}, plan_.work, {}}};
  build();
  EXPECT_FALSE(files::exists(work("classes")));
}

TEST_F(Folders, AreNoPlaceForOthers) {
  model::Step other = plan_.steps[1];
  other.outputs = {work("classes/deep/slate")};
  plan_.steps.push_back(other);
  Unheard unheard;
  Request request;
  request.selection.assign(plan_.steps.size(), true);
  const auto outcome = engine::build(plan_, request, unheard);
  ASSERT_FALSE(outcome.ok());
  EXPECT_EQ(outcome.problem().what, "'work/classes/deep/slate' is made by two steps");
}

TEST_F(Folders, ALinkInTheWayIsNotFollowed) {
  tree_.write("elsewhere/kept", "precious\n");
  std::filesystem::create_directory_symlink(tree_.path("elsewhere"), work("classes"));
  build();
  EXPECT_EQ(tree_.read("elsewhere/kept"), "precious\n");
  EXPECT_EQ(packed(), "kaolin fired\nloam fired\nmarl fired\n");
}

// What is not looked at cannot be said to be as it was.
TEST_F(Folders, DeeperThanAnythingIsNoInput) {
  std::string deep = "clays";
  for (int i = 0; i < 210; ++i) deep += "/d";
  tree_.write(deep + "/blue.clay", "shale\n");
  build();
  const auto outcome = build();
  EXPECT_EQ(outcome.failed, 1U);
  EXPECT_EQ(outcome.steps[0].end, "the folder clays cannot be read");
}

TEST_F(Folders, AMissingOneIsSaid) {
  plan_.steps[0].input_folders = {tree_.path("pits")};
  const auto outcome = build();
  EXPECT_EQ(outcome.steps[0].end, "the folder pits is not there");
}

}  // namespace
}  // namespace coctilis::engine
