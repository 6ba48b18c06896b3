#include "pipeline/member_schedule.h"

#include <poll.h>

#include <algorithm>
#include <filesystem>

#include "base/files.h"
#include "base/job_tokens.h"
#include "base/process.h"
#include "base/shared_count.h"
#include "base/text.h"

namespace coctilis::pipeline {

namespace {

class MemberSchedule {
 public:
  MemberSchedule(const std::vector<ScheduledMember>& members, unsigned jobs, const std::string& folder,
                 Watcher& watcher)
      : members_(members), folder_(folder), watcher_(watcher), jobs_(std::max(1U, jobs)), ended_(members.size()) {
    for (const auto& member : members) {
      state_.push_back(member.wanted ? State::waits : State::not_wanted);
      wanted_ += member.wanted ? 1 : 0;
    }
    // Those that the most wait for, one behind the other, are begun first.
    std::vector<std::size_t> height(members.size());
    for (std::size_t i = members.size(); i-- > 0;) {
      if (!members[i].wanted) continue;
      for (const auto other : members[i].place.waits) height[other] = std::max(height[other], height[i] + 1);
    }
    for (std::size_t i = 0; i < members.size(); ++i) in_turn_.push_back(i);
    std::stable_sort(in_turn_.begin(), in_turn_.end(), [&](auto a, auto b) { return height[a] > height[b]; });
    files::make_folder(folder);
    JobTokens::make(folder + "/tokens", jobs_ - 1);
    std::error_code error;
    std::filesystem::remove(folder + "/count", error);
    count_.emplace(folder + "/count");
    tokens_.emplace(folder + "/tokens");
  }

  // As many at once as there are jobs; each process of a member that runs takes one of these as well.
  std::vector<std::optional<model::Run>> run() {
    for (;;) {
      begin_what_can();
      if (running_.empty()) break;
      wait();
    }
    watcher_.doing("");
    return std::move(ended_);
  }

 private:
  enum class State { not_wanted, waits, runs, good, bad };
  struct Running {
    std::size_t member = 0;
    MemberTask task;
    std::string file;
    Process process;
    double began = 0;
  };

  [[nodiscard]] bool has_ended(std::size_t i) const { return state_[i] == State::good || state_[i] == State::bad; }

  // Each comes behind what it waits for, so that one look finds all.
  void begin_what_can() {
    for (const auto i : in_turn_) {
      if (interrupted_by != 0) return;
      const auto& waits = members_[i].place.waits;
      if (state_[i] != State::waits ||
          !std::all_of(waits.begin(), waits.end(), [&](auto other) { return has_ended(other); }))
        continue;
      if (const auto problem = cannot_begin(i)) {
        MemberAnswer answer;
        answer.member = members_[i].task({}).member;
        answer.member.problem = problem;
        answer.member.as_member.not_begun = !members_[i].place.problem;
        ended(i, std::move(answer));
      } else if (running_.size() < jobs_ && (running_.empty() || tokens_->take())) {
        start(i);
      }
    }
  }

  [[nodiscard]] std::optional<Problem> cannot_begin(std::size_t i) const {
    if (members_[i].place.problem) return members_[i].place.problem;
    std::vector<std::string> lacking;
    for (const auto need : members_[i].place.needs) {
      if (state_[need] != State::good) lacking.push_back(members_[need].name);
    }
    if (lacking.empty()) return std::nullopt;
    return Problem{Exit::missing, {}, "needs " + text::join(lacking, ", "), {}, {}, {}};
  }

  void start(std::size_t i) {
    std::vector<std::string> installed;
    for (const auto other : members_[i].place.sees) {
      if (!ended_[other]) continue;
      const auto& prefix = ended_[other]->options.prefix;
      if (state_[other] == State::good && files::is_folder(prefix) &&
          std::find(installed.begin(), installed.end(), prefix) == installed.end())
        installed.push_back(prefix);
    }
    Running running;
    running.member = i;
    running.task = members_[i].task(installed);
    running.task.member.options.jobs = jobs_;
    running.task.member.options.shared_tokens = folder_ + "/tokens";
    running.task.member.options.shared_count = folder_ + "/count";
    running.file = running.task.member.options.kiln;
    running.began = now() - began_;
    running.process = Process::start(member_command(running.task, running.file));
    state_[i] = State::runs;
    running_.push_back(std::move(running));
  }

  void wait() {
    std::vector<pollfd> fds;
    for (const auto& running : running_) {
      if (running.process.output_fd() >= 0) fds.push_back({running.process.output_fd(), POLLIN, 0});
    }
    ::poll(fds.data(), fds.size(), fds.size() < running_.size() ? 2 : 100);
    if (interrupted_by != 0 && !told_to_end_) {
      told_to_end_ = true;
      for (const auto& running : running_) running.process.signal(interrupted_by);
    }
    for (std::size_t at = 0; at < running_.size();) {
      if (!running_[at].process.poll()) {
        ++at;
        continue;
      }
      auto running = std::move(running_[at]);
      running_.erase(running_.begin() + static_cast<std::ptrdiff_t>(at));
      tokens_->give_back_all_but(running_.empty() ? 0 : running_.size() - 1);
      auto answer = member_answer(running.task, running.file, running.process.take());
      answer.member.as_member.began = running.began;
      ended(running.member, std::move(answer));
    }
    say_what_goes_on();
  }

  void ended(std::size_t i, MemberAnswer answer) {
    for (const auto need : members_[i].place.needs) answer.member.as_member.needs.push_back(members_[need].name);
    watcher_.doing("");
    ++number_;
    if (!answer.member.as_member.not_begun) {
      watcher_.member_begun(answer.member);
      tell_of_member(answer, watcher_);
    }
    watcher_.member_ended(answer.member);
    state_[i] = answer.member.problem ? State::bad : State::good;
    ended_[i] = std::move(answer.member);
  }

  void say_what_goes_on() {
    if (running_.empty()) return watcher_.doing("");
    std::vector<std::string> names;
    for (const auto& running : running_) names.push_back(members_[running.member].name);
    const auto steps = count_->values();
    watcher_.doing(std::to_string(number_) + " of " + text::count(wanted_, "member") + " done, " +
                   text::count(steps.done, "step") +
                   (steps.total > steps.done ? " of " + std::to_string(steps.total) : "") + "; now " +
                   text::join(names, ", "));
  }

  const std::vector<ScheduledMember>& members_;
  const std::string folder_;
  Watcher& watcher_;
  const unsigned jobs_;
  std::vector<std::size_t> in_turn_;
  std::vector<State> state_;
  std::vector<std::optional<model::Run>> ended_;
  std::vector<Running> running_;
  const double began_ = now();
  std::size_t wanted_ = 0;
  std::size_t number_ = 0;  // of those that have ended
  bool told_to_end_ = false;
  std::optional<JobTokens> tokens_;  // one for each process of a member but the first
  std::optional<SharedCount> count_;
};

}  // namespace

std::vector<std::optional<model::Run>> bring_up_in_order(const std::vector<ScheduledMember>& members, unsigned jobs,
                                                         const std::string& folder, Watcher& watcher) {
  return MemberSchedule(members, jobs, folder, watcher).run();
}

}  // namespace coctilis::pipeline
