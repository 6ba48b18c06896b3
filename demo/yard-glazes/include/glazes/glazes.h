#pragma once

#ifdef __cplusplus
extern "C" {
#endif

const char* glazes_version(void);
/* Grams of an oxide for so many moles of it; negative: it is not known. */
double glazes_grams(const char* oxide, double moles);
/* Whether recipes that are kept are packed. */
int glazes_packs(void);

#ifdef __cplusplus
}
#endif
