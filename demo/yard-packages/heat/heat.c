#include "heat.h"

#include <cones.h>

double heat_for_cone(int cone) { return 1.05 * cone_degrees(cone); }
