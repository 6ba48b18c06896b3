#include <stdio.h>

#include "glazes/glazes.h"

static int number;

static void check(int good, const char* what) { printf("%sok %d - %s\n", good ? "" : "not ", ++number, what); }

int main(void) {
  printf("1..3\n");
  check(glazes_grams("SiO2", 2) == 120, "silica by the mole, to half a gram");
  check(glazes_grams("CaO", 0) == 0, "nothing weighs nothing");
  check(glazes_grams("mud", 1) < 0, "mud is no oxide");
  return 0;
}
