#include "drying.h"

#include <clay.h>

double drying_hours(const char* kind) { return 240 * clay_water(kind); }
