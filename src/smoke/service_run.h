// A service while it runs: started, waited for, asked, and ended in order.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "model/asked_check.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"
#include "smoke/workplace.h"

namespace coctilis::smoke {

struct Question;

class RunningService {
 public:
  RunningService(Runner& runner, const model::AskedService& asked);
  ~RunningService();  // ends what still runs
  RunningService(const RunningService&) = delete;
  RunningService& operator=(const RunningService&) = delete;

  // Starts it and waits until it is ready. What it says when it is: "listens on port 4711".
  [[nodiscard]] Judgement start();
  // Asks what its probes ask, in order, until one fails.
  [[nodiscard]] Judgement probe();
  // Asks it to end (SIGTERM), and ends it when it does not. Fails when it crashed or has what is forbidden in its
  // output.
  [[nodiscard]] Judgement stop();
  [[nodiscard]] const std::string& output() const { return running_ ? process_.output_so_far() : seen_.ended.output; }
  [[nodiscard]] std::string command() const;
  [[nodiscard]] const model::AskedService& asked() const { return asked_; }

 private:
  void look();  // takes what it has printed, and its end
  [[nodiscard]] Judgement ended_before(const std::string& what);
  [[nodiscard]] std::string why_ready(double& next_look);
  [[nodiscard]] Judgement one_probe(const model::Probe& probe);
  [[nodiscard]] Judgement ask_with(const model::Probe& probe);
  [[nodiscard]] Judgement run_clients(const model::Probe& probe);
  [[nodiscard]] Command asking(const Question& question) const;

  Runner& runner_;
  const model::AskedService& asked_;
  Workplace place_;
  Workplace::Start start_;
  Process process_;
  Process readiness_;  // asks whether a page answers
  bool running_ = false;
  std::size_t printed_ = 0;  // bytes of output that were looked at for readiness
  bool says_ready_ = false;
  Observation seen_;
};

// The services of those names with all that they need, started in order; all are ended, the last first, when this goes.
class Services {
 public:
  Services(Runner& runner, const std::vector<model::AskedService>& all) : runner_(runner), all_(all) {}
  // The first that does not get ready is told; those before it run on.
  [[nodiscard]] Judgement start(const std::vector<std::string>& names);
  // In the opposite order.
  [[nodiscard]] Judgement stop();
  [[nodiscard]] std::string output() const;

 private:
  Runner& runner_;
  const std::vector<model::AskedService>& all_;
  std::vector<std::unique_ptr<RunningService>> running_;
};

}  // namespace coctilis::smoke
