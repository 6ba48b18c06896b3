#ifndef FIRING_H
#define FIRING_H
#ifdef __cplusplus
extern "C" {
#endif
/* Hours from the press to the yard. */
double firing_hours(const char* kind, int cone);
#ifdef __cplusplus
}
#endif
#endif
