#include "smoke/side_by_side.h"

#include <unistd.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

#include "base/job_tokens.h"

namespace coctilis::smoke {

namespace {

// Checks that run while others do, as many as there are jobs for. One that fails beside others is made once more when
// no other runs: they may have disturbed each other, and are written to be run one after the other.
class SideBySide {
 public:
  // `seconds`: how long they took the last time, by their names.
  SideBySide(const std::vector<PlannedCheck>& all, Runner& runner, const Request& request,
             const std::map<std::string, double>& seconds)
      : all_(all), runner_(runner), request_(request), state_(all.size(), State::waits), checks_(all.size()) {
    const auto cost = [&](std::size_t i) {
      const auto it = seconds.find(all_[i].name);
      return it != seconds.end() ? it->second : all_[i].company.cost;
    };
    if (!request.shared_tokens.empty()) tokens_.emplace(request.shared_tokens);
    for (std::size_t i = 0; i < all.size(); ++i) order_.push_back(i);
    std::stable_sort(order_.begin(), order_.end(), [&](auto a, auto b) { return cost(a) > cost(b); });
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
      if (any && tokens_) tokens_->give_back_all_but(running_.empty() ? 0 : running_.size() - 1);
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
      // One goes by the leave that this run has of its own.
      if (tokens_ && !running_.empty() && tokens_->taken() < running_.size() && !tokens_->take()) return;
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
    model::Check check = all_[i].run(runner_);
    if (check.verdict == model::Verdict::passed) check.reason += "; alone: beside others it fails";
    over(i, std::move(check));
    return true;
  }

  void over(std::size_t i, model::Check check) {
    state_[i] = State::over;
    checks_[i] = std::move(check);
  }

  const std::vector<PlannedCheck>& all_;
  Runner& runner_;
  const Request& request_;
  std::optional<JobTokens> tokens_;  // of a build that this one is part of
  std::vector<std::size_t> order_;   // in which they are begun
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

// How long the checks took the last time.
std::map<std::string, double> kept_seconds(Runner& runner, const std::string& question) {
  std::map<std::string, double> out;
  const auto read = nlohmann::json::parse(runner.kept().get(question).value_or(""), nullptr, false);
  if (!read.is_object()) return out;
  for (const auto& [name, seconds] : read.items()) {
    if (seconds.is_number()) out[name] = seconds.get<double>();
  }
  return out;
}

void keep_seconds(Runner& runner, const std::string& question, std::map<std::string, double> seconds,
                  const std::vector<model::Check>& checks) {
  // Those that were not asked for keep what they have.
  for (const auto& check : checks) seconds[check.name] = check.seconds;
  const nlohmann::json kept = seconds;
  runner.kept().put(question, kept.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace), {});
}

}  // namespace

std::vector<model::Check> run_side_by_side(const Kind& kind, const Context& context,
                                           const std::vector<PlannedCheck>& all, Runner& runner) {
  std::string question = std::string("side by side\n") + model::name_of(kind.kind);
  const std::string how_long = "seconds of\n" + question;
  for (const auto& planned : all) question += "\n" + planned.name + "\n" + planned.what;
  if (runner.kept().get(question)) return one_after_the_other(all, runner, context.request);
  const auto failed = [](const model::Check& check) { return check.verdict == model::Verdict::failed; };
  const auto seconds = kept_seconds(runner, how_long);
  auto out = SideBySide(all, runner, context.request, seconds).run();
  keep_seconds(runner, how_long, seconds, out);
  const auto failures = std::count_if(out.begin(), out.end(), failed);
  if (failures == 0 || interrupted_by != 0) return out;
  runner.forget_copy();
  out = one_after_the_other(kind.expand(context), runner, context.request);
  if (std::count_if(out.begin(), out.end(), failed) < failures && interrupted_by == 0)
    runner.kept().put(question, "they disturb each other", {});
  return out;
}

}  // namespace coctilis::smoke
