#include "cones.h"

int cone_degrees(int cone) {
  static const int degrees[] = {0, 1137, 1142, 1152, 1162, 1186, 1222, 1239, 1249, 1260, 1285};
  return cone > 0 && cone < (int)(sizeof degrees / sizeof *degrees) ? degrees[cone] : 0;
}
