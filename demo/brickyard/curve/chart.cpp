#include "brickyard_config.h"
#include "curve/curve.h"

namespace curve {

std::string chart(const Firing& firing) {
  std::string out;
#ifdef BRICKYARD_CHARTS
  for (std::size_t hour = 0; hour < firing.by_hour.size(); ++hour) {
    out += (hour < 10 ? " " : "") + std::to_string(hour) + " h " + std::string(static_cast<std::size_t>(firing.by_hour[hour] / 25), '#') + "\n";
  }
#else
  (void)firing;
#endif
  return out;
}

}  // namespace curve
