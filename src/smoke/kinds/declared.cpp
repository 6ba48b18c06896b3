// The tests that the description declares.
#include <unistd.h>

#include <map>
#include <set>

#include "base/confine.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "smoke/expectations.h"
#include "smoke/failing.h"
#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::TestCase;
using model::Verdict;

namespace {

// The declared tests that are asked for with the fixtures they need, in an order in which what a test waits for comes
// before it: tests it declared_names, those that set up its fixtures; and those that take a fixture away come last.
std::vector<const TestCase*> in_order(const Context& context) {
  const auto& tests = context.plan.tests;
  const auto shares = [](const std::vector<std::string>& a, const std::vector<std::string>& b) {
    return std::any_of(a.begin(), a.end(),
                       [&](const auto& name) { return std::find(b.begin(), b.end(), name) != b.end(); });
  };
  std::map<std::string, std::vector<std::size_t>> setting_up;
  std::map<std::string, std::vector<std::size_t>> using_it;
  std::map<std::string, std::size_t> by_name;
  for (std::size_t k = 0; k < tests.size(); ++k) {
    by_name.emplace(tests[k].name, k);
    for (const auto& fixture : tests[k].sets_up) setting_up[fixture].push_back(k);
    for (const auto& fixture : tests[k].requires_) using_it[fixture].push_back(k);
  }
  std::vector<bool> chosen(tests.size());
  for (std::size_t k = 0; k < tests.size(); ++k) chosen[k] = context.wanted(tests[k].name, tests[k].program);
  for (std::size_t k = 0; k < tests.size(); ++k) {
    if (!chosen[k]) continue;
    for (std::size_t other = 0; other < tests.size(); ++other)
      chosen[other] = chosen[other] || shares(tests[k].requires_, tests[other].sets_up) ||
                      shares(tests[k].requires_, tests[other].cleans_up);
  }
  std::vector<const model::TestCase*> out;
  std::vector<int> state(tests.size(), 0);  // 1: being placed (a circle is cut there), 2: placed
  const std::function<void(std::size_t)> place = [&](std::size_t k) {
    if (state[k] != 0) return;
    state[k] = 1;
    for (const auto& name : tests[k].after) {
      if (const auto it = by_name.find(name); it != by_name.end()) place(it->second);
    }
    for (const auto& fixture : tests[k].requires_) {
      for (const auto other : setting_up[fixture]) place(other);
    }
    for (const auto& fixture : tests[k].cleans_up) {
      for (const auto other : setting_up[fixture]) place(other);
      for (const auto other : using_it[fixture]) place(other);
    }
    state[k] = 2;
    if (chosen[k]) out.push_back(&tests[k]);
  };
  for (std::size_t k = 0; k < tests.size(); ++k) place(k);
  return out;
}

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
    Command command = as_declared();
    if (const std::string why = why_not(command); !why.empty()) {
      check_.verdict = Verdict::skipped;
      check_.reason = why;
      return check_;
    }
    command.argv = runner_.launched(std::move(command.argv));
    check_.command = text::shell_join(command.argv);
    const Command declared = command;
    move_to_copy(command);
    const double begin = now();
    if (test_.operation)
      judge_as(check_, command, operate(command));
    else
      start(command, declared);
    check_.seconds = now() - begin;
    if (check_.verdict == Verdict::passed) check_.reason += with_;
    if (check_.verdict == Verdict::failed) shared_.broken.insert(test_.sets_up.begin(), test_.sets_up.end());
    return check_;
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

  void judge_as(Check& check, const Command& command, const Observation& seen) const {
    Expectations expected;
    expected.pass_patterns = test_.pass_patterns;
    expected.fail_patterns = test_.fail_patterns;
    expected.skip_patterns = test_.skip_patterns;
    expected.skip_code = test_.skip_code;
    expected.will_fail = test_.will_fail;
    expected.excuses = true;
    if (test_.own_script) expected.not_followed_code = static_cast<int>(Exit::description);
    auto judgement = judge(seen, expected, runner_.is_emulated(command.argv));
    check.output = seen.ended.output;
    check.verdict = judgement.verdict;
    check.reason = std::move(judgement.reason);
  }

  // Runs it; what fails may pass when it is run in another way, and then that counts.
  void start(Command& command, const Command& declared) {
    const Observation seen = runner_.observe(command, limit_);
    judge_as(check_, command, seen);
    const auto again = [&](bool all_rights, const char* how) {
      Check other = check_;
      judge_as(other, command, runner_.observe(command, limit_, all_rights));
      if (other.verdict != Verdict::passed) return;
      check_ = std::move(other);
      check_.command = text::shell_join(command.argv);
      check_.reason += std::string("; ") + how;
    };
    const bool by_make = files::is_below(command.argv.front(), plan_.kiln + "/make");
    const bool told = tells_of_refused_writing(seen.ended.output, plan_.tree);
    const bool refused = !by_make && may_have_been_refused(seen, told);
    // What it writes where it may not goes to a copy that it sees in place of the tree, and a home of its own.
    if (refused) {
      // One that is to fail has not failed as it is meant to when it was only kept from writing.
      if (check_.verdict == Verdict::passed) check_.verdict = Verdict::failed;
      const Command usual = std::exchange(command, runner_.in_place(declared));
      again(false, "with a copy in place of the tree, into which it writes");
      if (check_.verdict == Verdict::failed && told)
        check_.reason += "; it may have wanted to write outside of the kiln";
      command = usual;
    }
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
  std::string with_;  // how it was run, where that is not as declared
};

std::vector<PlannedCheck> expand_declared(const Context& context) {
  std::vector<PlannedCheck> out;
  const auto shared = std::make_shared<Shared>();
  const double limit = context.request.test_limit_seconds;
  for (const auto* test : in_order(context))
    out.push_back({test->name,
                   [test, shared, limit](Runner& runner) { return DeclaredTest(*test, runner, *shared, limit).run(); },
                   text::shell_join(test->command), test->after, test->place});
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
