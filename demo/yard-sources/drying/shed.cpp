#include "shed.hpp"

#include <cmath>

double days(const Shed& shed, double moisture, double leather) {
  const double rate = 0.012 * shed.warmth * (100 - shed.humidity) / 40;
  return std::log(moisture / leather) / rate;
}
