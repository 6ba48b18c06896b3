#ifndef CLAY_H
#define CLAY_H
#ifdef __cplusplus
extern "C" {
#endif
/* kg of water in a kg of clay of a kind, or a negative number. */
double clay_water(const char* kind);
#ifdef __cplusplus
}
#endif
#endif
