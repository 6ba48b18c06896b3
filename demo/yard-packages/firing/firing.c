#include "firing.h"

#include <drying.h>
#include <shrinkage.h>

double firing_hours(const char* kind, int cone) {
  return drying_hours(kind) + 2.5 * cone + 10 * shrinkage(kind);
}
