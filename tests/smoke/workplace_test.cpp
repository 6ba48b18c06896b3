// Where and with what programs of asked checks run.
#include "smoke/workplace.h"

#include "support.h"

namespace coctilis::smoke {
namespace {

using model::Verdict;

class WorkplaceTest : public testing::Test {
 protected:
  WorkplaceTest() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
    tree_.write("data/firing.conf", "cone = 6\n");
    tree_.write("data/more/glaze.tbl", "");
    model::PlannedTarget target;
    target.name = "kiln";
    target.kind = model::TargetKind::program;
    target.output = plan_.work + "/kiln";
    plan_.targets.push_back(target);
    files::write(target.output, "#!/bin/sh\npwd\necho \"$CONE $*\"\ncat\n");
    std::filesystem::permissions(target.output, std::filesystem::perms::owner_all);
    runner_ = std::make_unique<Runner>(plan_, nullptr);
  }
  // What the program prints there.
  std::string printed(Workplace& place, const std::vector<std::string>& run,
                      const std::optional<std::string>& input = {}, const std::string& input_file = {}) {
    auto start = place.start_of(run, input, input_file);
    if (start.obstacle) return "obstacle: " + start.obstacle->reason;
    return runner_->observe(start.command, 20).ended.output;
  }
  test::TreeFolder tree_;
  model::Plan plan_;
  model::Surroundings asked_;
  std::unique_ptr<Runner> runner_;
};

TEST_F(WorkplaceTest, IsAnEmptyFolderWithWhatIsAskedFor) {
  asked_.files = {{"data/firing.conf", "in/fire.conf"}, {"data", "data"}};
  asked_.folders = {"out/deep"};
  asked_.environment = {{"CONE", "${N}"}};
  Workplace place(*runner_, asked_, "kiln", {{"N", "6"}});
  ASSERT_FALSE(place.obstacle()) << place.obstacle()->reason;
  EXPECT_EQ(files::read(place.file("in/fire.conf")), "cone = 6\n");
  EXPECT_TRUE(files::is_file(place.file("data/more/glaze.tbl")));
  EXPECT_TRUE(files::is_folder(place.file("out/deep")));
  EXPECT_EQ(printed(place, {"kiln", "a", "${N}"}, "clay ${N}\n"), place.folder() + "\n6 a 6\nclay 6\n");
}

TEST_F(WorkplaceTest, InputIsAFileOfTheFolderOrTheTree) {
  asked_.files = {{"data/firing.conf", "here"}};
  Workplace place(*runner_, asked_, "kiln");
  EXPECT_NE(printed(place, {"kiln"}, {}, "here").find("cone = 6"), std::string::npos);
  EXPECT_NE(printed(place, {"kiln"}, {}, "data/firing.conf").find("cone = 6"), std::string::npos);
  EXPECT_EQ(printed(place, {"kiln"}, {}, "none"), "obstacle: its input, the file 'none', is not there");
}

TEST_F(WorkplaceTest, AFolderOfTheTreeIsACopy) {
  asked_.folder = "data";
  asked_.files = {{"data/more/glaze.tbl", "glaze.tbl"}};
  Workplace place(*runner_, asked_, "kiln", {}, true);
  ASSERT_FALSE(place.obstacle());
  EXPECT_EQ(place.seen_folder(), tree_.path("data"));
  EXPECT_FALSE(files::is_below(place.folder(), tree_.path()));
  EXPECT_TRUE(files::is_file(place.file("firing.conf")));
  EXPECT_FALSE(files::exists(tree_.path("data/glaze.tbl"))) << "what is put there goes into the copy";
}

TEST_F(WorkplaceTest, FoldersThatAreNotThere) {
  asked_.folder = "nowhere";
  const Workplace place(*runner_, asked_, "kiln");
  ASSERT_TRUE(place.obstacle());
  EXPECT_EQ(place.obstacle()->verdict, Verdict::failed);
  EXPECT_FALSE(place.obstacle()->remedy.empty());
}

TEST_F(WorkplaceTest, NothingIsPutIntoAFolderThatIsNamedElsewhere) {
  asked_.folder = tree_.scratch();
  asked_.files = {{"data/firing.conf", "firing.conf"}};
  const Workplace place(*runner_, asked_, "kiln");
  ASSERT_TRUE(place.obstacle());
  EXPECT_FALSE(files::exists(tree_.scratch() + "/firing.conf"));
}

TEST_F(WorkplaceTest, AFolderThatIsNamedElsewhereIsNotWrittenTo) {
  asked_.folder = tree_.scratch();
  Workplace place(*runner_, asked_, "kiln");
  ASSERT_FALSE(place.obstacle());
  const auto start = place.start_of({"kiln"});
  EXPECT_EQ(std::count(start.command.writable.begin(), start.command.writable.end(), tree_.scratch()), 0);
}

TEST_F(WorkplaceTest, TheProgramsOwnFolder) {
  asked_.folder = "${program}";
  Workplace place(*runner_, asked_, "kiln");
  EXPECT_EQ(printed(place, {"kiln"}).substr(0, plan_.work.size()), plan_.work);
}

TEST_F(WorkplaceTest, WhatIsNotThereIsTold) {
  asked_.files = {{"data/none", "none"}};
  EXPECT_EQ(Workplace(*runner_, asked_, "kiln").obstacle()->reason,
            "the file 'data/none' that is to lie in its working folder is not there");
  asked_.files = {{"data/firing.conf", "x"}};
  asked_.folders = {"x"};
  EXPECT_NE(Workplace(*runner_, asked_, "kiln").obstacle()->reason.find("cannot be put"), std::string::npos);
  asked_ = {};
  asked_.devices = {"/dev/kiln0"};
  EXPECT_EQ(Workplace(*runner_, asked_, "kiln").obstacle()->verdict, Verdict::skipped);
  asked_ = {};
  asked_.launcher = {"glaze-run"};
  Workplace launched(*runner_, asked_, "kiln");
  EXPECT_EQ(launched.start_of({"kiln"}).obstacle->verdict, Verdict::skipped);
  EXPECT_EQ(launched.start_of({"oven"}).obstacle->verdict, Verdict::failed);
}

TEST_F(WorkplaceTest, AProgramThatDoesNotLoadIsNotRun) {
  runner_->cannot_load(plan_.work + "/kiln");
  Workplace place(*runner_, asked_, "kiln");
  EXPECT_EQ(place.start_of({"kiln"}).obstacle->verdict, Verdict::skipped);
}

TEST_F(WorkplaceTest, OfWhatProgramsMakeNothingLeadsOut) {
  Workplace place(*runner_, asked_, "kiln");
  files::write(place.file("made"), "x");
  std::filesystem::create_symlink("/etc/hostname", place.file("link"));
  std::filesystem::create_symlink(tree_.path(), place.file("way"));
  EXPECT_EQ(place.made_file("made"), place.file("made"));
  EXPECT_EQ(place.made_file("none"), "");
  EXPECT_EQ(place.made_file("link"), "");
  EXPECT_EQ(place.made_file("way/data/firing.conf"), "");
}

TEST_F(WorkplaceTest, OfSeveralResultsOfOneNameThatIsThere) {
  model::PlannedTarget other = plan_.targets.front();
  other.output = plan_.work + "/elsewhere/kiln";
  plan_.targets.insert(plan_.targets.begin(), other);
  EXPECT_EQ(runner_->program_path("kiln"), plan_.work + "/kiln");
  EXPECT_EQ(runner_->program_path("no-such-kiln"), "");
}

}  // namespace
}  // namespace coctilis::smoke
