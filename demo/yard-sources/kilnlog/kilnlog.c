#include <math.h>
#include <stdio.h>
#include <stdlib.h>

#include "../common/csvline.h"
#include "totals.inc"

/* Reads "minute,degrees" lines from standard input. */
int main(void) {
  char line[256];
  while (fgets(line, sizeof line, stdin) != NULL) {
    char* degrees = csv_field(line, 1);
    if (degrees != NULL) hottest = fmax(hottest, atof(degrees));
    free(degrees);
    ++lines;
  }
  printf("%d lines, hottest %.0f\n", lines, hottest);
  return 0;
}
