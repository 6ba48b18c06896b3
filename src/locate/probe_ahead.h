// Probes that will most likely be asked for soon, put to the compiler side by side before they are.
#pragma once

#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "locate/probe.h"

namespace coctilis::locate {

class ProbeAhead {
 public:
  // At most `jobs` compilers at once. `toolchain` and `answers` (may be null) must outlive this.
  ProbeAhead(const model::Toolchain& toolchain, Answers* answers, unsigned jobs)
      : toolchain_(toolchain), answers_(answers), jobs_(jobs) {}
  // Waits for what runs; what did not start yet is dropped.
  ~ProbeAhead();
  ProbeAhead(const ProbeAhead&) = delete;
  ProbeAhead& operator=(const ProbeAhead&) = delete;

  // Queues a probe, if it was not before.
  void start(const Probe& probe);
  // The answer to a probe that was queued: waits for it when it runs. Nothing when it was never queued, or has not
  // begun: it is taken off the queue then, for the caller to ask at once.
  [[nodiscard]] std::optional<Answer> take(const Probe& probe);
  [[nodiscard]] bool has(const Probe& probe);

 private:
  struct Entry {
    enum class State { waiting, running, done };
    State state = State::waiting;
    Probe probe;
    Answer answer;
  };
  void work();
  const model::Toolchain& toolchain_;
  Answers* answers_;
  unsigned jobs_;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::map<std::string, Entry> entries_;  // by question
  std::deque<std::string> queue_;
  std::vector<std::thread> threads_;
  bool ending_ = false;
};

}  // namespace coctilis::locate
