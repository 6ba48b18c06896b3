// The tests that the description declares.
#include <unistd.h>

#include <map>
#include <memory>
#include <optional>
#include <set>

#include "base/confine.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/own_program.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "smoke/expectations.h"
#include "smoke/failing.h"
#include "smoke/kinds/kind.h"
#include "smoke/workplace.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::TestCase;
using model::Verdict;

namespace {

bool shares(const std::vector<std::string>& a, const std::vector<std::string>& b) {
  return std::any_of(a.begin(), a.end(),
                     [&](const auto& name) { return std::find(b.begin(), b.end(), name) != b.end(); });
}

// The declared tests that are asked for with the fixtures they need, in an order in which what a test waits for comes
// before it: tests that it names, those that set up its fixtures; and those that take a fixture away come last.
class Order {
 public:
  explicit Order(const Context& context) : tests_(context.plan.tests), state_(tests_.size(), 0), waits_(tests_.size()) {
    for (std::size_t k = 0; k < tests_.size(); ++k) {
      by_name_.emplace(tests_[k].name, k);
      for (const auto& fixture : tests_[k].sets_up) setting_up_[fixture].push_back(k);
      for (const auto& fixture : tests_[k].requires_) using_it_[fixture].push_back(k);
    }
    std::vector<bool> chosen(tests_.size());
    for (std::size_t k = 0; k < tests_.size(); ++k) chosen[k] = context.wanted(tests_[k].name, tests_[k].program);
    for (std::size_t k = 0; k < tests_.size(); ++k) {
      if (!chosen[k]) continue;
      for (std::size_t other = 0; other < tests_.size(); ++other)
        chosen[other] = chosen[other] || shares(tests_[k].requires_, tests_[other].sets_up) ||
                        shares(tests_[k].requires_, tests_[other].cleans_up);
    }
    for (std::size_t k = 0; k < tests_.size(); ++k) place(k);
    std::vector<std::size_t> at(tests_.size(), tests_.size());
    for (const auto k : placed_) {
      if (!chosen[k]) continue;
      at[k] = tests.size();
      tests.push_back(&tests_[k]);
      waits.emplace_back();
      // What comes behind it waits for it itself: a circle is cut there.
      for (const auto other : waits_[k]) {
        if (at[other] < at[k]) waits.back().push_back(at[other]);
      }
    }
  }

  std::vector<const TestCase*> tests;
  std::vector<std::vector<std::size_t>> waits;  // of each, which of `tests` have to be over before it

 private:
  void place(std::size_t k) {
    if (state_[k] != 0) return;
    state_[k] = 1;
    const auto before = [&](std::size_t other) {
      waits_[k].push_back(other);
      place(other);
    };
    for (const auto& name : tests_[k].after) {
      if (const auto it = by_name_.find(name); it != by_name_.end()) before(it->second);
    }
    for (const auto& fixture : tests_[k].requires_) {
      for (const auto other : setting_up_[fixture]) before(other);
    }
    for (const auto& fixture : tests_[k].cleans_up) {
      for (const auto other : setting_up_[fixture]) before(other);
      for (const auto other : using_it_[fixture]) before(other);
    }
    placed_.push_back(k);
  }

  const std::vector<TestCase>& tests_;
  std::map<std::string, std::vector<std::size_t>> setting_up_;
  std::map<std::string, std::vector<std::size_t>> using_it_;
  std::map<std::string, std::size_t> by_name_;
  std::vector<int> state_;  // 1: it is placed, or being so
  std::vector<std::vector<std::size_t>> waits_;
  std::vector<std::size_t> placed_;
};

// What tests leave for each other.
struct Shared {
  std::set<std::string> broken;  // fixtures whose setting up failed
};

class DeclaredTest {
 public:
  DeclaredTest(const TestCase& test, Runner& runner, Shared& shared, double general_limit)
      : test_(test),
        runner_(runner),
        plan_(runner.plan()),
        shared_(shared),
        limit_(test.limit_seconds > 0 ? test.limit_seconds : general_limit) {
    check_.kind = CheckKind::declared;
    check_.name = test.name;
    check_.place = test.place;
    check_.command = text::shell_join(test.command);
  }

  Check run() {
    if (begin()) {
      while (!observing_->ended()) ::usleep(2000);
    }
    return finish();
  }

  // A shell in place of its program.
  std::optional<Judgement> enter(const PlannedCheck::Stay& stay) {
    Command command = as_declared();
    if (const std::string why = why_not(command); !why.empty()) return Judgement(Verdict::skipped, why);
    move_to_copy(command);
    Entered entered{std::move(command), {}, {}, {}};
    entered.runs = {text::shell_join(entered.command.argv)};
    entered.command.argv = {shell_of_user()};
    stay(entered);
    return std::nullopt;
  }

  // Starts its program; false: there is nothing to wait for.
  bool begin() {
    command_ = as_declared();
    if (const std::string why = why_not(command_); !why.empty()) {
      check_.verdict = Verdict::skipped;
      check_.reason = why;
      return false;
    }
    command_.argv = runner_.launched(std::move(command_.argv));
    check_.command = text::shell_join(command_.argv);
    declared_ = command_;
    move_to_copy(command_);
    const bool moved =
        !runner_.copy().empty() && (command_.argv != declared_.argv || command_.folder != declared_.folder);
    // Paths that were compiled in, and those that it is given, agree where the copy is seen in place of the tree.
    if (moved && !test_.operation && !by_make() && sandbox::why_not().empty() && !sandbox::inside()) {
      beside_ = std::exchange(command_, runner_.in_place(declared_));
      check_.command = text::shell_join(declared_.argv);
    }
    began_ = now();
    if (test_.operation)
      judge_as(check_, operate(command_));
    else
      observing_ = runner_.begin(command_, limit_);
    return observing_.has_value();
  }
  bool ended() { return observing_->ended(); }

  // What came of it. What fails may pass when it is run in another way, and then that counts.
  Check finish() {
    if (observing_) conclude(observing_->take());
    if (began_ > 0) check_.seconds = now() - began_;
    if (check_.verdict == Verdict::passed) check_.reason += with_;
    if (check_.verdict == Verdict::failed) shared_.broken.insert(test_.sets_up.begin(), test_.sets_up.end());
    return check_;
  }

  // How it ended as it was begun, without another way being tried.
  bool failed_at_first() {
    Observation seen = observing_->take();
    judge_as(check_, seen);
    if (check_.verdict != Verdict::failed) {
      observing_.reset();
      return false;
    }
    return true;
  }

 private:
  Command as_declared() {
    Command command;
    command.argv = test_.command;
    command.folder = test_.folder;
    for (const auto& [name, value] : plan_.environment) command.environment[name] = value;
    for (const auto& [name, value] : test_.environment) command.environment[name] = value;
    // Tests of the description start programs without their starters.
    const bool starters =
        std::any_of(plan_.targets.begin(), plan_.targets.end(), [](const auto& t) { return !t.starter.empty(); });
    if (starters && !command.environment.contains("LD_LIBRARY_PATH")) {
      const char* before = std::getenv("LD_LIBRARY_PATH");
      command.environment["LD_LIBRARY_PATH"] =
          text::join(runner_.library_folders(), ":") + (before == nullptr ? std::string{} : ":" + std::string(before));
      with_ = "; with LD_LIBRARY_PATH, which the programs' starters set";
    }
    // A folder that a description declared_names wrongly does no harm where the program lies beside its test.
    if (std::string& program = command.argv.front(); program.starts_with('/') && !files::exists(program)) {
      const std::string beside = command.folder + "/" + std::filesystem::path(program).filename().string();
      if (files::is_program(beside)) program = beside;
    }
    return command;
  }

  // Why the test is not run; empty when it is.
  [[nodiscard]] std::string why_not(const Command& command) const {
    if (test_.disabled) return "the description disables it";
    for (const auto& fixture : test_.requires_) {
      if (shared_.broken.contains(fixture)) return "the fixture '" + fixture + "' that it needs was not set up";
    }
    if (!test_.not_followed.empty()) return test_.not_followed;
    if (!test_.program.empty()) {
      const auto* target = plan_.target(test_.program);
      if (target != nullptr && !files::is_file(target->output))
        return "its program '" + test_.program + "' was not built";
    }
    for (const auto& file : test_.needs_files) {
      if (files::is_file(file)) continue;
      const auto made = std::find_if(plan_.targets.begin(), plan_.targets.end(),
                                     [&](const auto& target) { return target.output == file; });
      return made != plan_.targets.end() ? "'" + made->name + "', which it needs, was not built"
                                         : "the file " + files::below(file, plan_.tree) + " that it needs is not there";
    }
    return runner_.cannot_start(command.argv.front());
  }

  // What the test may write to becomes a copy.
  void move_to_copy(Command& command) {
    for (auto& word : command.argv) word = runner_.with_copy(word);
    for (auto& [name, value] : command.environment) {
      if (value) value = runner_.with_copy(*value);
    }
    std::error_code error;
    if (files::is_below(command.folder, plan_.work))
      std::filesystem::create_directories(command.folder, error);
    else if (files::is_below(command.folder, plan_.tree))
      command.folder = runner_.in_copy(command.folder);
    command.writable = plan_.writable;
    if (!runner_.copy().empty()) command.writable.push_back(runner_.copy());
  }

  // A test that copies or compares files by an operation that this program does itself, as in the build.
  Observation operate(const Command& command) {
    Observation out;
    out.limit = limit_;
    out.ended.how = Ended::How::exited;
    const std::string& copy = runner_.copy();
    out.ended.code = files::run_operation(
        command.argv, command.folder,
        !copy.empty() && files::is_below(command.folder, copy) ? copy : plan_.output_root(), out.ended.output);
    return out;
  }

  void judge_as(Check& check, const Observation& seen) const {
    Expectations expected;
    expected.pass_patterns = test_.pass_patterns;
    expected.output = test_.prints;
    expected.fail_patterns = test_.fail_patterns;
    expected.skip_patterns = test_.skip_patterns;
    expected.skip_code = test_.skip_code;
    expected.error_code = test_.error_code;
    expected.test_lines = test_.test_lines;
    expected.will_fail = test_.will_fail;
    expected.excuses = true;
    if (test_.own_script) expected.not_followed_code = static_cast<int>(Exit::description);
    auto judgement = judge(seen, expected, runner_.is_emulated(declared_.argv));
    check.output = seen.ended.output;
    check.verdict = judgement.verdict;
    check.reason = std::move(judgement.reason);
  }

  void conclude(const Observation& seen) {
    Command& command = command_;
    const Command& declared = declared_;
    judge_as(check_, seen);
    const auto again = [&](bool all_rights, const char* how) {
      Check other = check_;
      judge_as(other, runner_.observe(command, limit_, all_rights));
      if (other.verdict != Verdict::passed) return;
      check_ = std::move(other);
      check_.command = text::shell_join(command.argv.front() == own_program() ? declared.argv : command.argv);
      check_.reason += std::string("; ") + how;
    };
    const bool by_make = this->by_make();
    const bool in_place = beside_.has_value();
    const bool told = tells_of_refused_writing(seen.ended.output, plan_.tree);
    const bool refused = !by_make && !in_place && may_have_been_refused(seen, told);
    // What it writes where it may not goes to a copy that it sees in place of the tree, and a home of its own.
    if (refused) {
      // One that is to fail has not failed as it is meant to when it was only kept from writing.
      if (check_.verdict == Verdict::passed) check_.verdict = Verdict::failed;
      const Command usual = std::exchange(command, runner_.in_place(declared));
      again(false, "with a copy in place of the tree, into which it writes");
      command = usual;
    }
    // One that finds what another test has left running is one of a network that tests share.
    const bool ended = seen.ended.how == Ended::How::exited || seen.ended.how == Ended::How::signalled;
    if (check_.verdict == Verdict::failed && ended && !test_.will_fail && interrupted_by == 0 && in_place) {
      const Command usual = std::exchange(command, *beside_);
      again(false, "with a copy beside the tree, which its words name");
      command = usual;
    }
    if (check_.verdict == Verdict::failed && told && (refused || in_place))
      check_.reason += "; it may have wanted to write outside of the kiln";
    if (const auto address = refused_address(seen.ended.output, check_.command);
        check_.verdict == Verdict::failed && !address.empty() && !sandbox::allowed().network)
      check_.reason += "; it wanted to reach the network, which commands of a tree do not get: " + address;
    const auto may_differ = [&] {
      return check_.verdict == Verdict::failed && seen.ended.how == Ended::How::exited && interrupted_by == 0 &&
             !(refused && test_.will_fail);
    };
    // Parts of a test target that use the same files fail when they run at once, as their authors do not run them.
    const auto jobs = plan_.environment.find("COCTILIS_MAKE_JOBS");
    if (may_differ() && by_make && jobs != plan_.environment.end() && jobs->second != "1") {
      command.argv.emplace_back("-j1");
      command.environment["COCTILIS_MAKE_JOBS"] = "1";  // of the makes that it starts, too
      again(false, "one part after the other: at once they disturb each other");
    }
    // Some tests of archivers and the like are only for the superuser as it is.
    if (may_differ() && command.modes_count && ::geteuid() == 0) again(true, "with all rights of the superuser");
    if (check_.verdict != Verdict::failed || by_make || test_.will_fail || declared.argv.empty()) return;
    Judgement judgement(check_.verdict, check_.reason);
    find_cause(judgement, runner_, command, declared.argv.front(), command.folder, seen, false);
    check_.cause = judgement.cause;
    check_.remedy = judgement.remedy;
    check_.evidence = judgement.evidence;
  }

  // It is one that a makefile runs.
  [[nodiscard]] bool by_make() const { return files::is_below(declared_.argv.front(), plan_.kiln + "/make"); }

  // Whether the test may have failed for want of a place to write to. `told`: its output says so.
  [[nodiscard]] bool may_have_been_refused(const Observation& seen, bool told) const {
    if (plan_.writable.empty()) return false;
    // Such a test may well end by abort(3).
    const bool broke = check_.verdict == Verdict::failed && seen.ended.how != Ended::How::timed_out &&
                       seen.ended.how != Ended::How::interrupted && interrupted_by == 0;
    // Where the tree lies among temporary files, those are withheld from the first try; tests write there by a name of
    // their own, and do not say what went wrong.
    const auto all = temporary_folders_without({});
    const bool withheld = std::any_of(all.begin(), all.end(), [&](const auto& folder) {
      return std::find(plan_.writable.begin(), plan_.writable.end(), folder) == plan_.writable.end();
    });
    return (broke && (told || withheld)) || (test_.will_fail && told);
  }

  const TestCase& test_;
  Runner& runner_;
  const model::Plan& plan_;
  Shared& shared_;
  const double limit_;
  Check check_;
  std::string with_;               // how it was run, where that is not as declared
  Command command_;                // as it is run
  Command declared_;               // as it is declared
  std::optional<Command> beside_;  // how that is run where the copy is not seen in place of the tree
  double began_ = 0;
  std::optional<Observing> observing_;
};

// One of the tests while several run at once.
class TestBesideOthers : public CheckBesideOthers {
 public:
  TestBesideOthers(const TestCase& test, std::shared_ptr<Shared> shared, double limit)
      : test_(test), shared_(std::move(shared)), limit_(limit) {}
  bool begin(Runner& runner) override {
    running_ = std::make_unique<DeclaredTest>(test_, runner, *shared_, limit_);
    return running_->begin();
  }
  bool ended() override { return running_->ended(); }
  bool failed_at_first() override { return running_->failed_at_first(); }
  Check finish() override { return running_->finish(); }

 private:
  const TestCase& test_;
  std::shared_ptr<Shared> shared_;
  double limit_;
  std::unique_ptr<DeclaredTest> running_;
};

std::vector<PlannedCheck> expand_declared(const Context& context) {
  std::vector<PlannedCheck> out;
  const auto shared = std::make_shared<Shared>();
  const double limit = context.request.test_limit_seconds;
  Order order(context);
  for (std::size_t i = 0; i < order.tests.size(); ++i) {
    const TestCase* test = order.tests[i];
    out.push_back({test->name,
                   [test, shared, limit](Runner& runner) { return DeclaredTest(*test, runner, *shared, limit).run(); },
                   text::shell_join(test->command),
                   test->after,
                   test->place,
                   std::make_shared<TestBesideOthers>(*test, shared, limit),
                   {order.waits[i], test->locks, test->jobs, test->alone, test->cost}});
    out.back().program = test->program;
    out.back().enter = [test, shared, limit](Runner& runner, const PlannedCheck::Stay& stay) {
      return DeclaredTest(*test, runner, *shared, limit).enter(stay);
    };
  }
  return out;
}

std::vector<std::string> declared_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& test : context.plan.tests) out.push_back(test.name);
  return out;
}

}  // namespace

Kind declared_kind() { return {CheckKind::declared, expand_declared, declared_names}; }

}  // namespace coctilis::smoke
