#include "engine/time_left.h"

#include <algorithm>
#include <cmath>

namespace coctilis::engine {

void TimeLeft::expect(std::size_t step, model::StepKind kind, double guess, bool recorded) {
  if (steps_.size() <= step) steps_.resize(step + 1);
  const std::size_t group = recorded ? 0 : 1 + std::min(static_cast<std::size_t>(kind), kinds - 1);
  steps_[step] = {group, guess, recorded};
  groups_[group].waiting += guess;
}

void TimeLeft::likely(std::size_t step) {
  if (step >= steps_.size() || steps_[step].guess < 0 || steps_[step].likely) return;
  leave(step);
  steps_[step].likely = true;
  groups_[steps_[step].group].likely += steps_[step].guess;
}

void TimeLeft::leave(std::size_t step) {
  auto& group = groups_[steps_[step].group];
  (steps_[step].likely ? group.likely : group.waiting) -= steps_[step].guess;
}

void TimeLeft::not_needed(std::size_t step) {
  leave(step);
  if (!steps_[step].likely) ++not_needed_;
}

void TimeLeft::began(std::size_t step) {
  leave(step);
  ++ran_;
  if (!steps_[step].likely) ++ran_undecided_;
}

void TimeLeft::ended(std::size_t step, double seconds) {
  auto& group = groups_[steps_[step].group];
  group.guessed += steps_[step].guess;
  group.took += seconds;
  took_ += seconds;
}

double TimeLeft::factor(const Group& group) const {
  if (group.guessed > 0) return group.took / group.guessed;
  // Nothing of its kind has ended: as far off as the others are.
  double guessed = 0;
  for (const auto& one : groups_) guessed += one.guessed;
  return guessed > 0 ? took_ / guessed : 1;
}

double TimeLeft::expected(std::size_t step) const {
  if (step >= steps_.size() || steps_[step].guess < 0) return -1;
  return steps_[step].guess * factor(groups_[steps_[step].group]);
}

double TimeLeft::last_time(std::size_t step) const {
  return step < steps_.size() && steps_[step].recorded ? steps_[step].guess : -1;
}

double TimeLeft::worked_out(double now, const std::vector<std::pair<std::size_t, double>>& running, double longest,
                            std::size_t more) const {
  double guessed = 0;
  double work = 0;
  for (const auto& group : groups_) {
    guessed += group.guessed;
    const double share =
        static_cast<double>(ran_undecided_ + 1) / static_cast<double>(ran_undecided_ + not_needed_ + 1);
    work += (std::max(0.0, group.likely) + std::max(0.0, group.waiting) * share) * factor(group);
  }
  const double off = guessed > 0 ? took_ / guessed : 1;
  const auto ended = static_cast<double>(ran_ - std::min(ran_, running.size()));
  if (ended > 0) work += static_cast<double>(more) * took_ / ended;
  double last = 0;
  double ages = 0;
  for (const auto& [step, age] : running) {
    // One that takes longer than expected takes the longer, the longer it has taken.
    const double left = std::max(expected(step) - age, age / 4);
    work += left;
    last = std::max(last, left);
    ages += age;
  }
  // How many have run at once so far is how many will, once that can be told.
  constexpr double early = 2;
  double at_once = jobs_;
  if (now > early) at_once = std::clamp((took_ + ages) / now, 1.0, static_cast<double>(jobs_));
  return std::max({work / at_once, longest * off, last});
}

double TimeLeft::told(double now, const std::vector<std::pair<std::size_t, double>>& running, double longest,
                      std::size_t more) {
  // With nothing recorded, a few steps have to have ended before anything can be said: one in twenty.
  const std::size_t enough = std::max<std::size_t>(3, steps_.size() / 20);
  constexpr double beginning = 1;
  // Later there is more to know it by, and more to be lost by jumps.
  const double follows_within = std::clamp(now / 4, 0.5, 20.0);  // seconds
  const bool known = groups_[0].waiting > 0 || groups_[0].guessed > 0;
  if (now < beginning || (!known && ran_ < enough + running.size())) return -1;
  const double is = worked_out(now, running, longest, more);
  if (told_ < 0) {
    told_ = is;
  } else {
    const double passed = std::max(0.0, now - told_at_);
    told_ = std::max(0.0, told_ - passed);
    told_ += (is - told_) * (1 - std::exp(-passed / follows_within));
  }
  told_at_ = now;
  return told_;
}

}  // namespace coctilis::engine
