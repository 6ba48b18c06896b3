#include "clay.h"

#include <string.h>

double clay_water(const char* kind) {
  static const struct {
    const char* kind;
    double water;
  } clays[] = {{"red", 0.24}, {"yellow", 0.21}, {"fire", 0.17}};
  for (unsigned i = 0; i < sizeof clays / sizeof *clays; ++i) {
    if (strcmp(clays[i].kind, kind) == 0) return clays[i].water;
  }
  return -1;
}
