#ifndef SHRINKAGE_H
#define SHRINKAGE_H
#ifdef __cplusplus
extern "C" {
#endif
/* Share of its length that a brick of a clay loses. */
double shrinkage(const char* kind);
#ifdef __cplusplus
}
#endif
#endif
