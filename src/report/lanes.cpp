#include "report/lanes.h"

namespace coctilis::report {

Lanes lanes_of(const std::vector<std::pair<double, double>>& times) {
  // Clocks have an end to how fine they are.
  constexpr double fine = 1e-4;
  Lanes out;
  std::vector<double> free_from;
  for (const auto& [began, seconds] : times) {
    std::size_t lane = 0;
    while (lane < free_from.size() && free_from[lane] > began + fine) ++lane;
    if (lane == free_from.size()) free_from.push_back(0);
    free_from[lane] = began + seconds;
    out.of.push_back(lane);
  }
  out.count = free_from.size();
  return out;
}

}  // namespace coctilis::report
