#include <string.h>

#include "config.h"
#include "glazes/glazes.h"
#include "oxides.h"
#include "weighing.h"
#ifdef PACKS_RECIPES
#include <zlib.h>
#endif

const char* glazes_version(void) { return GLAZES_VERSION; }

double glazes_grams(const char* oxide, double moles) {
  for (int i = 0; i < oxide_count; ++i) {
    if (strcmp(oxides[i].name, oxide) == 0) return weighed(oxides[i].molar_mass * moles);
  }
  return -1;
}

int glazes_packs(void) {
#ifdef PACKS_RECIPES
  return zlibVersion() != 0;
#else
  return 0;
#endif
}
