#ifndef HEAT_H
#define HEAT_H
#ifdef __cplusplus
extern "C" {
#endif
/* Megajoules for a tonne of bricks up to a cone. */
double heat_for_cone(int cone);
#ifdef __cplusplus
}
#endif
#endif
