#include "csv.h"

#include <stdlib.h>

#include "textline.h"

int csv_read(char *line, const char **kind, long *pieces) {
  char *fields[2];
  if (line[0] == '#' || textline_split(line, ',', fields, 2) != 2) return 0;
  *kind = textline_trim(fields[0]);
  *pieces = strtol(fields[1], NULL, 10);
  return 1;
}
