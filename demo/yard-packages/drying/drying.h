#ifndef DRYING_H
#define DRYING_H
#ifdef __cplusplus
extern "C" {
#endif
/* Hours in the shed. */
double drying_hours(const char* kind);
#ifdef __cplusplus
}
#endif
#endif
