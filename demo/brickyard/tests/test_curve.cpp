// Firing curves against values worked out by hand.
#include <cmath>
#include <cstdio>

#include "curve/curve.h"

static int failures = 0;

static void expect(bool condition, const char* what) {
  if (condition) return;
  std::printf("wrong: %s\n", what);
  ++failures;
}

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  expect(curve::cone_peak(6) == 1222, "cone 6 peaks at 1222");
  expect(curve::cone_peak(77) == 0, "there is no cone 77");
  const auto legs = curve::read_schedule(argv[1]);
  expect(legs.size() == 6, "six legs");
  const auto firing = curve::simulate(legs, curve::cone_peak(6));
  expect(std::fabs(firing.peak - 1222) < 0.01, "the peak is that of the cone");
  expect(firing.hours > 20 && firing.hours < 40, "a day and a bit");
  return failures == 0 ? 0 : 1;
}
