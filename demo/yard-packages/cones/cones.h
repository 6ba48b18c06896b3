#ifndef CONES_H
#define CONES_H
#ifdef __cplusplus
extern "C" {
#endif
/* Degrees Celsius at which a cone bends; 0 for one that is not known. */
int cone_degrees(int cone);
#ifdef __cplusplus
}
#endif
#endif
