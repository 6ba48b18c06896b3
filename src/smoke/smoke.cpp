#include "smoke/smoke.h"

#include <unistd.h>

#include <algorithm>
#include <set>

#include "base/process.h"
#include "smoke/kinds/kind.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

namespace {

bool is_known(const Context& context, const std::string& name) {
  if (context.plan.target(name) != nullptr) return true;
  return std::any_of(kinds().begin(), kinds().end(), [&](const Kind& kind) {
    const auto names = kind.names(context);
    return std::find(names.begin(), names.end(), name) != names.end();
  });
}

void check_names(const Context& context) {
  for (const auto& name : context.request.only) {
    if (!is_known(context, name))
      throw Fault(
          {Exit::usage, {}, "there is no check '" + name + "'", "", "coctilis smoke --list shows what there is", {}});
  }
}

}  // namespace

namespace {

// Checks that run while others do, as many as there are jobs for. One that fails beside others is made once more when
// no other runs: they may have disturbed each other, and are written to be run one after the other.
class SideBySide {
 public:
  SideBySide(const std::vector<PlannedCheck>& all, Runner& runner, const Request& request)
      : all_(all), runner_(runner), request_(request), state_(all.size(), State::waits), checks_(all.size()) {
    for (std::size_t i = 0; i < all.size(); ++i) order_.push_back(i);
    std::stable_sort(order_.begin(), order_.end(),
                     [&](auto a, auto b) { return all_[a].company.seconds > all_[b].company.seconds; });
  }

  std::vector<model::Check> run() {
    while (interrupted_by == 0) {
      begin_what_can();
      if (running_.empty()) {
        if (!repeat_one()) break;
        continue;
      }
      bool any = false;
      for (std::size_t i = 0; i < running_.size();) {
        if (!all_[running_[i]].beside->ended()) {
          ++i;
          continue;
        }
        any = true;
        take(running_[i]);
        running_.erase(running_.begin() + static_cast<std::ptrdiff_t>(i));
      }
      runner_.look_beside();
      if (!any) ::usleep(2000);
    }
    for (const auto i : running_) {
      while (!all_[i].beside->ended()) ::usleep(2000);
    }
    std::vector<model::Check> out;
    for (std::size_t i = 0; i < all_.size(); ++i) {
      if (state_[i] == State::over) out.push_back(std::move(checks_[i]));
    }
    return out;
  }

 private:
  enum class State { waits, runs, once_more, over };

  bool can_begin(std::size_t i) const {
    const Company& company = all_[i].company;
    if (state_[i] != State::waits) return false;
    if (!std::all_of(company.waits.begin(), company.waits.end(),
                     [&](auto other) { return state_[other] == State::over; }))
      return false;
    unsigned jobs = 0;
    for (const auto other : running_) {
      const Company& theirs = all_[other].company;
      jobs += theirs.jobs;
      const bool shares = std::any_of(company.locks.begin(), company.locks.end(), [&](const auto& lock) {
        return std::find(theirs.locks.begin(), theirs.locks.end(), lock) != theirs.locks.end();
      });
      if (theirs.alone || company.alone || shares) return false;
    }
    return running_.empty() || jobs + company.jobs <= request_.jobs;
  }

  void begin_what_can() {
    // What is to be made once more waits for an empty house.
    if (std::find(state_.begin(), state_.end(), State::once_more) != state_.end()) return;
    for (const auto i : order_) {
      if (!can_begin(i)) continue;
      if (request_.begun) request_.begun(all_[i].name);
      state_[i] = State::runs;
      had_company_.insert(running_.begin(), running_.end());
      if (!running_.empty()) had_company_.insert(i);
      if (all_[i].beside->begin(runner_))
        running_.push_back(i);
      else
        over(i, all_[i].beside->finish());
    }
  }

  void take(std::size_t i) {
    if (had_company_.contains(i) && all_[i].beside->failed_at_first()) {
      state_[i] = State::once_more;
      return;
    }
    over(i, all_[i].beside->finish());
  }

  bool repeat_one() {
    const auto it = std::find(state_.begin(), state_.end(), State::once_more);
    if (it == state_.end()) return false;
    const auto i = static_cast<std::size_t>(it - state_.begin());
    over(i, all_[i].run(runner_));
    return true;
  }

  void over(std::size_t i, model::Check check) {
    state_[i] = State::over;
    checks_[i] = std::move(check);
  }

  const std::vector<PlannedCheck>& all_;
  Runner& runner_;
  const Request& request_;
  std::vector<std::size_t> order_;  // in which they are begun
  std::vector<State> state_;
  std::vector<model::Check> checks_;
  std::vector<std::size_t> running_;
  std::set<std::size_t> had_company_;
};

std::vector<model::Check> one_after_the_other(const std::vector<PlannedCheck>& all, Runner& runner,
                                              const Request& request) {
  std::vector<model::Check> out;
  for (const auto& planned : all) {
    if (interrupted_by != 0) break;
    if (request.begun) request.begun(planned.name);
    out.push_back(planned.run(runner));
  }
  return out;
}

// All checks of a kind that can run side by side. Many trees have tests that hang on the order in which they stand, and
// say nothing of it: where one fails all the same, all are made once more, one after the other as they are declared,
// and that counts. Where that shows them to disturb each other, they are not run side by side again.
std::vector<model::Check> all_of_kind(const Kind& kind, const Context& context, const std::vector<PlannedCheck>& all,
                                      Runner& runner) {
  std::string question = std::string("side by side\n") + model::name_of(kind.kind);
  for (const auto& planned : all) question += "\n" + planned.name + "\n" + planned.what;
  if (runner.kept().get(question)) return one_after_the_other(all, runner, context.request);
  const auto failed = [](const model::Check& check) { return check.verdict == model::Verdict::failed; };
  auto out = SideBySide(all, runner, context.request).run();
  const auto failures = std::count_if(out.begin(), out.end(), failed);
  if (failures == 0 || interrupted_by != 0) return out;
  runner.forget_copy();
  out = one_after_the_other(kind.expand(context), runner, context.request);
  if (std::count_if(out.begin(), out.end(), failed) < failures && interrupted_by == 0)
    runner.kept().put(question, "they disturb each other", {});
  return out;
}

// The check as often as it is asked for. One that does not always end alike has failed.
model::Check repeated(const PlannedCheck& planned, Runner& runner, unsigned times) {
  model::Check out = planned.run(runner);
  unsigned failed = out.verdict == model::Verdict::failed ? 1 : 0;
  unsigned made = 1;
  for (; made < times && interrupted_by == 0 && out.verdict != model::Verdict::skipped; ++made) {
    model::Check again = planned.run(runner);
    if (again.verdict == model::Verdict::failed) ++failed;
    const double seconds = out.seconds + again.seconds;
    if (again.verdict == model::Verdict::failed && out.verdict != model::Verdict::failed) out = std::move(again);
    out.seconds = seconds;
  }
  if (times > 1 && failed == 0 && out.verdict == model::Verdict::passed)
    out.reason += "; " + std::to_string(made) + " times";
  if (failed > 0 && made > 1)
    out.reason = (failed < made ? "flaky: " : "") +
                 ("failed " + std::to_string(failed) + " of " + std::to_string(made)) + " times: " + out.reason;
  return out;
}

}  // namespace

std::vector<std::string> known_checks(const model::Plan& plan, const model::Settings& settings,
                                      const std::vector<std::string>& names) {
  const Request request;
  const Context context{plan, settings, request};
  std::vector<std::string> out;
  std::copy_if(names.begin(), names.end(), std::back_inserter(out),
               [&](const auto& name) { return is_known(context, name); });
  return out;
}

Result<std::vector<ListedCheck>> list_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<ListedCheck> out;
    for (const auto& kind : kinds()) {
      for (auto& planned : kind.expand(context))
        out.push_back({kind.kind, planned.name, planned.what, planned.needs, planned.place});
    }
    return out;
  });
}

Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request,
                                             const std::function<void(const model::Check&)>& ended) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<model::Check> out;
    Runner runner(plan, request.toolchain);
    runner.debug(request.debugs);
    runner.start_anew(request.debugs || request.repeat > 1);
    for (const auto& kind : kinds()) {
      const auto all = kind.expand(context);
      if (request.jobs > 1 && request.repeat == 1 && all.size() > 1 &&
          std::all_of(all.begin(), all.end(), [](const auto& planned) { return planned.beside != nullptr; })) {
        for (auto& check : all_of_kind(kind, context, all, runner)) {
          out.push_back(std::move(check));
          ended(out.back());
        }
        continue;
      }
      for (const auto& planned : all) {
        if (interrupted_by != 0) return out;
        if (request.begun) request.begun(planned.name);
        out.push_back(repeated(planned, runner, request.repeat));
        ended(out.back());
      }
    }
    return out;
  });
}

}  // namespace coctilis::smoke
