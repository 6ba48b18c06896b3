#include "orders.h"

#include <firing.h>

int order_days(const char* kind, int cone) { return 1 + (int)(firing_hours(kind, cone) / 24); }
