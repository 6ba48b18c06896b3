// A member in a process of its own: what it is told, and what is made of how it ended.
#include "pipeline/member_process.h"

#include "base/packing.h"
#include "base/text.h"
#include "support.h"

namespace coctilis::pipeline {
namespace {

// Writes down what it is told.
class Listener : public Watcher, public survey::FillObserver, public engine::Observer {
 public:
  std::string said;
  void doing(const std::string& what) override { say(what.empty() ? "." : what); }
  void noted(const std::string& text) override { say("noted " + text); }
  void unpacked(const model::Run&) override { say("unpacked"); }
  void surveyed(const model::Run& run) override { say("surveyed " + run.as_member.name); }
  void located(const model::Run&, bool good) override { say(good ? "located" : "not located"); }
  void planned(const model::Run&, bool good) override { say(good ? "planned" : "not planned"); }
  void looked(const model::Run&) override { say("looked"); }
  void built(const model::Run&, bool good) override { say(good ? "built" : "not built"); }
  void checked(const model::Run&, bool good) override { say(good ? "checked" : "check failed"); }
  void staged(const model::Run&) override { say("staged"); }
  void check_ended(const model::Check& check) override { say("check " + check.name); }
  void entered(const smoke::Entered&) override { say("entered"); }
  void member_begun(const model::Run&) override { say("begun"); }
  void member_ended(const model::Run&) override { say("ended"); }
  bool asks_to_fill(const model::Run&) override { return false; }
  bool asks_to_allow(const std::string&) override { return false; }
  survey::FillObserver& filling() override { return *this; }
  engine::Observer& building(const model::Run&) override { return *this; }
  void step_ended(std::size_t, const model::StepResult&) override {}
  void progress(const engine::Progress&) override {}
  void ended(const survey::Filled&) override {}
  void progress(std::size_t, std::size_t, const std::vector<survey::Transfer>&) override {}

 private:
  void say(const std::string& what) { said += (said.empty() ? "" : ", ") + what; }
};

class MemberProcess : public testing::Test {
 protected:
  MemberProcess() {
    task_.member.as_member.name = "clay";
    task_.whole_tree = tree_.path();
  }
  [[nodiscard]] std::string file() const { return tree_.scratch() + "/members/clay"; }
  [[nodiscard]] static Ended ended(Ended::How how, int code) {
    Ended out;
    out.how = how;
    out.code = code;
    return out;
  }
  test::TreeFolder tree_;
  MemberTask task_;
};

TEST_F(MemberProcess, IsToldByAFile) {
  task_.member.settings.variant = "debug";
  task_.member.notes = {"a", "b"};
  task_.wish.goal = Goal::plan;
  const auto command = member_command(task_, file());
  EXPECT_EQ(command.argv[1], "bring-up-member");
  EXPECT_EQ(command.argv.back(), file());
  MemberTask read;
  unpack(files::read(file() + ".task").value_or(""), read);
  EXPECT_EQ(read.member.as_member.name, "clay");
  EXPECT_EQ(read.member.notes, task_.member.notes);
  EXPECT_EQ(read.wish.goal, Goal::plan);
}

TEST_F(MemberProcess, AnswersByAnotherWhichIsTakenAway) {
  static_cast<void>(member_command(task_, file()));
  MemberAnswer answer;
  answer.member.as_member.name = "clay";
  answer.member.checks.resize(2);
  answer.member.problem = Problem{Exit::step, {"clay.c", 3, 0}, "oops", {}, {}, {}};
  files::write(file() + ".answer", packed(answer));
  const auto read = member_answer(task_, file(), ended(Ended::How::exited, 0));
  EXPECT_EQ(read.member.checks.size(), 2U);
  EXPECT_EQ(read.member.problem->place.text(), "clay.c:3");
  EXPECT_FALSE(files::exists(file() + ".answer"));
  EXPECT_FALSE(files::exists(file() + ".task"));
}

TEST_F(MemberProcess, OneThatLeftNoneHasAProblem) {
  const auto crashed = member_answer(task_, file(), ended(Ended::How::exited, 3)).member;
  EXPECT_EQ(crashed.as_member.name, "clay");
  EXPECT_EQ(crashed.problem->exit, Exit::defect);
  const auto killed = member_answer(task_, file(), ended(Ended::How::signalled, 9)).member;
  EXPECT_EQ(killed.problem->exit, Exit::step);
  EXPECT_NE(killed.problem->what.find("signal 9"), std::string::npos) << killed.problem->what;
  EXPECT_FALSE(killed.problem->remedy.empty());
  for (const auto& garbage : {std::string(), std::string("x"), std::string(64, '\xFF')}) {
    files::write(file() + ".answer", garbage);
    EXPECT_EQ(member_answer(task_, file(), ended(Ended::How::exited, 0)).member.problem->exit, Exit::defect);
  }
}

TEST_F(MemberProcess, AFileThatIsNoTaskEndsIt) {
  EXPECT_EQ(bring_up_member(file()), static_cast<int>(Exit::usage));
  files::write(file() + ".task", "none");
  EXPECT_EQ(bring_up_member(file()), static_cast<int>(Exit::usage));
}

TEST_F(MemberProcess, WhatWasToldInItIsToldOutside) {
  MemberAnswer answer;
  answer.member.as_member.name = "clay";
  answer.member.checks.resize(1);
  answer.member.checks[0].name = "clay loads";
  using Kind = MemberEvent::Kind;
  answer.events = {{Kind::surveyed, true, {}}, {Kind::noted, true, "a thing"}, {Kind::located, true, {}},
                   {Kind::planned, true, {}},  {Kind::built, false, {}},       {Kind::checked, false, {}},
                   {Kind::staged, true, {}}};
  Listener listener;
  tell_of_member(answer, listener);
  EXPECT_EQ(listener.said,
            "surveyed clay, noted a thing, located, planned, not built, check clay loads, ., check failed, staged");
}

TEST_F(MemberProcess, APartHasWhatIsMeantForAll) {
  model::Run whole;
  whole.command = "coctilis build";
  whole.options.targets = {"clay"};
  whole.options.checks = {"peak"};
  whole.options.config = "/x.toml";
  whole.options.prefixes = {"/opt"};
  whole.options.variant = "debug";
  whole.allowed.network = true;
  whole.settings.machine = "aarch64-linux-gnu";
  whole.settings.options["HUE"] = "red";
  whole.settings.variants["field"] = {"field", "release", {"-O3"}, {}};
  const auto part = part_of(whole, "clay", "/yard/clay", "/kiln/members/clay");
  EXPECT_EQ(part.options.tree, "/yard/clay");
  EXPECT_EQ(part.options.kiln, "/kiln/members/clay");
  EXPECT_EQ(part.options.variant, "debug");
  EXPECT_TRUE(part.options.targets.empty() && part.options.checks.empty() && part.options.config.empty() &&
              part.options.prefixes.empty());
  EXPECT_TRUE(part.allowed.network);
  ASSERT_TRUE(part.as_member.inherited);
  EXPECT_EQ(part.as_member.inherited->machine, "aarch64-linux-gnu");
  EXPECT_TRUE(part.as_member.inherited->variants.contains("field"));
  EXPECT_TRUE(part.as_member.inherited->options.empty());
}

}  // namespace
}  // namespace coctilis::pipeline
