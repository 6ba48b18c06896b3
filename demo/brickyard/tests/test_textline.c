/* Splitting and trimming. */
#include <stdio.h>
#include <string.h>

#include "textline.h"

int main(void) {
  char line[] = " red , 12 ";
  char *fields[4];
  if (textline_split(line, ',', fields, 4) != 2) return 1;
  if (strcmp(textline_trim(fields[0]), "red") != 0) return 1;
  if (strcmp(textline_trim(fields[1]), "12") != 0) return 1;
  puts("fine");
  return 0;
}
