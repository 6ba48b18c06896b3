#include "shrinkage.h"

#include <clay.h>

double shrinkage(const char* kind) { return clay_water(kind) / 3; }
