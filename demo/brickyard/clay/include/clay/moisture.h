/* Drying before the fire. */
#ifndef CLAY_MOISTURE_H
#define CLAY_MOISTURE_H

#ifdef __cplusplus
extern "C" {
#endif

/* Hours until a piece of `thickness_mm` with `moisture` (share of mass) is dry at 60 degrees. */
double clay_drying_hours(double thickness_mm, double moisture);

#ifdef __cplusplus
}
#endif

#endif
