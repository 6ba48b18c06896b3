#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/version.h"
#include "report/critical.h"
#include "report/formats/formats.h"
#include "report/lanes.h"

namespace coctilis::report {

using nlohmann::ordered_json;

std::string trace_json(const model::Run& run) {
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < run.outcome.steps.size(); ++i) {
    if (run.outcome.steps[i].seconds > 0) order.push_back(i);
  }
  const auto& steps = run.outcome.steps;
  std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return steps[a].started < steps[b].started; });
  const auto critical = critical_steps(run.plan, run.outcome);
  // Events of one thread may not cover each other: each lane is a thread.
  std::vector<std::pair<double, double>> times;
  for (const auto i : order) times.emplace_back(steps[i].started, steps[i].seconds);
  const Lanes lanes = lanes_of(times);
  ordered_json events = ordered_json::array();
  events.push_back({{"name", "process_name"}, {"ph", "M"}, {"pid", 1}, {"tid", 0}, {"args", {{"name", "build"}}}});
  for (std::size_t lane = 1; lane <= lanes.count; ++lane)
    events.push_back({{"name", "thread_name"},
                      {"ph", "M"},
                      {"pid", 1},
                      {"tid", lane},
                      {"args", {{"name", "lane " + std::to_string(lane)}}}});
  for (std::size_t k = 0; k < order.size(); ++k) {
    const auto i = order[k];
    const auto& result = steps[i];
    const auto& step = run.plan.steps[i];
    events.push_back({{"name", std::string(model::name_of(step.kind)) + " " + step.subject},
                      {"cat", std::string(model::name_of(step.kind)) + (critical[i] ? ",critical" : "")},
                      {"ph", "X"},
                      {"ts", result.started * 1e6},
                      {"dur", result.seconds * 1e6},
                      {"pid", 1},
                      {"tid", lanes.of[k] + 1},
                      {"args",
                       {{"target", step.target},
                        {"reason", result.reason},
                        {"state", model::name_of(result.state)},
                        {"cpu_seconds", result.cpu_seconds},
                        {"peak_kilobytes", result.peak_kilobytes}}}});
  }
  const ordered_json out = {{"traceEvents", events},
                            {"displayTimeUnit", "ms"},
                            {"otherData", {{"tree", run.tree}, {"label", run.label}, {"coctilis", version}}}};
  return out.dump(-1, ' ', false, ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace coctilis::report
