#include "report/critical.h"

#include <string>
#include <unordered_map>

namespace coctilis::report {

std::vector<bool> critical_steps(const model::Plan& plan, const model::Outcome& outcome) {
  std::vector<bool> out(outcome.steps.size(), false);
  if (outcome.steps.size() != plan.steps.size()) return out;
  const auto end_of = [&](std::size_t i) {
    const auto& result = outcome.steps[i];
    return result.seconds > 0 ? result.started + result.seconds : 0;
  };
  std::unordered_map<std::string, std::size_t> maker;
  std::size_t last = plan.steps.size();
  for (std::size_t i = 0; i < plan.steps.size(); ++i) {
    if (end_of(i) <= 0) continue;
    for (const auto* list : {&plan.steps[i].outputs, &plan.steps[i].byproducts}) {
      for (const auto& file : *list) maker.emplace(file, i);
    }
    if (last == plan.steps.size() || end_of(i) > end_of(last)) last = i;
  }
  while (last < plan.steps.size() && !out[last]) {
    out[last] = true;
    std::size_t before = plan.steps.size();
    for (const auto* list : {&plan.steps[last].inputs, &plan.steps[last].after}) {
      for (const auto& file : *list) {
        const auto it = maker.find(file);
        if (it == maker.end() || it->second == last) continue;
        if (before == plan.steps.size() || end_of(it->second) > end_of(before)) before = it->second;
      }
    }
    last = before;
  }
  return out;
}

}  // namespace coctilis::report
