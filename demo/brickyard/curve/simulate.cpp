#include <algorithm>
#include <cmath>

#include "curve/curve.h"

namespace curve {

Firing simulate(const std::vector<Leg>& legs, double peak) {
  Firing firing;
  double temperature = 20;
  double next_hour = 0;
  const double step = 1.0 / 60;
  const auto advance = [&](double wanted) {
    temperature = wanted;
    if (firing.hours >= next_hour) {
      firing.by_hour.push_back(temperature);
      next_hour += 1;
    }
    firing.hours += step;
    firing.energy += std::max(0.0, temperature - 20) * 0.0021 * step;
    firing.peak = std::max(firing.peak, temperature);
  };
  for (const auto& leg : legs) {
    const double target = std::min(leg.target, peak);
    if (leg.rate == 0) continue;
    while (leg.rate > 0 ? temperature < target : temperature > target) {
      const double next = temperature + leg.rate * step;
      advance(leg.rate > 0 ? std::min(next, target) : std::max(next, target));
    }
    for (double held = 0; held < leg.hold; held += step) advance(temperature);
  }
  return firing;
}

}  // namespace curve
