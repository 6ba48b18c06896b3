// The kilns of the works.
#pragma once

#include <string>
#include <vector>

#include "curve/curve.h"

namespace kiln {

struct Result {
  std::string kiln;
  curve::Firing firing;
};

// Fires all kilns with one schedule, each on its own thread.
std::vector<Result> fire_all(const std::vector<std::string>& kilns, const std::vector<curve::Leg>& legs, double peak);

// The firing log, compressed as it is kept; its size in bytes.
std::size_t log_size(const std::vector<Result>& results);

}  // namespace kiln
