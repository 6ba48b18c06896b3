// Firing curves: how the temperature of a kiln goes over the hours.
#pragma once

#include <string>
#include <vector>

#include "clay/body.h"
#include "curve/export.h"

namespace curve {

// One leg of a schedule: heat or cool at a rate, then hold.
struct Leg {
  double rate = 0;     // degrees per hour, negative cools
  double target = 0;   // degrees Celsius
  double hold = 0;     // hours
};

// Reads "rate,target,hold" lines. Throws std::runtime_error with the line's number.
CURVE_API std::vector<Leg> read_schedule(const std::string& path);

// Peak temperature of a cone in degrees Celsius, or 0 for a cone that does not exist.
CURVE_API int cone_peak(int cone);

struct Firing {
  double hours = 0;
  double peak = 0;
  double energy = 0;              // kWh for a full kiln
  std::vector<double> by_hour;    // temperature at every full hour
};

// Runs a schedule up to a peak: legs that would go beyond stop there.
CURVE_API Firing simulate(const std::vector<Leg>& legs, double peak);

// The curve as lines of text; empty when charts are left out.
CURVE_API std::string chart(const Firing& firing);

}  // namespace curve
