#include "locate/probe_ahead.h"

namespace coctilis::locate {

ProbeAhead::~ProbeAhead() {
  {
    const std::lock_guard lock(mutex_);
    ending_ = true;
    queue_.clear();
  }
  changed_.notify_all();
  for (auto& thread : threads_) thread.join();
}

void ProbeAhead::start(const Probe& probe) {
  {
    const std::lock_guard lock(mutex_);
    const std::string question = question_of(probe, toolchain_);
    if (!entries_.try_emplace(question, Entry{Entry::State::waiting, probe, {}}).second) return;
    queue_.push_back(question);
    if (threads_.size() < jobs_) threads_.emplace_back([this] { work(); });
  }
  changed_.notify_all();
}

void ProbeAhead::work() {
  std::unique_lock lock(mutex_);
  for (;;) {
    changed_.wait(lock, [&] { return ending_ || !queue_.empty(); });
    if (ending_) return;
    const std::string question = queue_.front();
    queue_.pop_front();
    Entry& entry = entries_.at(question);
    entry.state = Entry::State::running;
    lock.unlock();
    Answer answer;
    try {
      answer = ask(entry.probe, toolchain_, answers_);
    } catch (const std::exception& error) {
      answer.output = error.what();  // no room for a scratch folder, say: the answer is no
    }
    lock.lock();
    entry.answer = std::move(answer);
    entry.state = Entry::State::done;
    changed_.notify_all();
  }
}

std::optional<Answer> ProbeAhead::take(const Probe& probe) {
  std::unique_lock lock(mutex_);
  const auto it = entries_.find(question_of(probe, toolchain_));
  if (it == entries_.end()) return std::nullopt;
  if (it->second.state == Entry::State::waiting) {
    std::erase(queue_, it->first);
    entries_.erase(it);
    return std::nullopt;
  }
  changed_.wait(lock, [&] { return it->second.state == Entry::State::done; });
  return it->second.answer;
}

bool ProbeAhead::has(const Probe& probe) {
  const std::lock_guard lock(mutex_);
  return entries_.contains(question_of(probe, toolchain_));
}

}  // namespace coctilis::locate
