#include <algorithm>

#include "clay/body.h"

namespace clay {

double shrinkage(const Body& body, double peak_celsius) {
  const double drying = 0.28 * body.moisture;
  const double firing = std::max(0.0, peak_celsius - 900.0) * 0.00016 * (1.0 - body.alumina);
  return drying + firing;
}

}  // namespace clay
