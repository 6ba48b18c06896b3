// How long a build will still take: from how long each step took the last time, where that is known, else from what
// steps of its kind have taken in this build.
#pragma once

#include <array>
#include <cstddef>
#include <utility>
#include <vector>

#include "model/plan.h"

namespace coctilis::engine {

class TimeLeft {
 public:
  // `jobs`: how many steps run at once at most.
  explicit TimeLeft(unsigned jobs) : jobs_(jobs == 0 ? 1 : jobs) {}

  // A step that may have to run. `guess`: seconds that it took the last time, where `recorded`; else by its kind.
  void expect(std::size_t step, model::StepKind kind, double guess, bool recorded);
  // It waits for what another step makes anew, and will run, as likely as not.
  void likely(std::size_t step);
  // It need not run after all. Of those that nobody has looked at yet, the same share will not have to.
  void not_needed(std::size_t step);
  // It has begun; it has ended after so many seconds.
  void began(std::size_t step);
  void ended(std::size_t step, double seconds);

  // Seconds left, `now` seconds after the build began; negative while nothing can be said. `running`: steps with their
  // age in seconds. `longest`: the longest way to the end of what has not begun, in seconds as guessed. `more`: steps
  // of other processes that are left, which take what steps have taken so far. What is told moves toward what is worked
  // out, within seconds, so that a step that takes another time than the last does not make it jump.
  [[nodiscard]] double told(double now, const std::vector<std::pair<std::size_t, double>>& running, double longest,
                            std::size_t more = 0);
  // The same as it is worked out, without that.
  [[nodiscard]] double worked_out(double now, const std::vector<std::pair<std::size_t, double>>& running,
                                  double longest, std::size_t more = 0) const;
  // What a step is expected to take, by what is known now; negative when nothing is.
  [[nodiscard]] double expected(std::size_t step) const;
  // Seconds that it took the last time; negative when nobody knows.
  [[nodiscard]] double last_time(std::size_t step) const;

 private:
  struct Step {
    std::size_t group = 0;  // of those that are measured together; 0: those that have a record
    double guess = -1;
    bool recorded = false;
    bool likely = false;
  };
  struct Group {
    double waiting = 0;  // guesses of those that have not begun, but for the likely
    double likely = 0;   // guesses of these
    double guessed = 0;  // guesses of those that have ended, and what they took
    double took = 0;
  };
  void leave(std::size_t step);
  // How far what is measured is from what is guessed.
  [[nodiscard]] double factor(const Group& group) const;

  static constexpr std::size_t kinds = 16;
  unsigned jobs_;
  std::vector<Step> steps_;
  std::array<Group, kinds + 1> groups_;
  std::size_t ran_ = 0;
  std::size_t ran_undecided_ = 0;  // of those that nothing had made likely
  std::size_t not_needed_ = 0;
  double took_ = 0;
  double told_ = -1;
  double told_at_ = 0;
};

}  // namespace coctilis::engine
