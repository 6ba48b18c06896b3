#include "clay/moisture.h"

double clay_drying_hours(double thickness_mm, double moisture) {
  /* Water has to reach the surface: the time grows with the square of the way. */
  double way = thickness_mm / 2.0;
  return 0.006 * way * way * (moisture / 0.2);
}
