// Steps of a build side by side: which lane each is on.
#pragma once

#include <utility>
#include <vector>

namespace coctilis::report {

struct Lanes {
  std::vector<std::size_t> of;  // parallel to what was asked
  std::size_t count = 0;
};

// `times`: when each began and how long it took, in the order of their beginning. None covers another of its lane.
[[nodiscard]] Lanes lanes_of(const std::vector<std::pair<double, double>>& times);

}  // namespace coctilis::report
