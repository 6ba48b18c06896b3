#ifdef HAVE_CONFIG_H
#include "config.h"
#endif
#include "csvline.h"

#include <stdlib.h>
#include <string.h>

#ifndef HAVE_STRNDUP
static char* strndup(const char* text, size_t length) {
  char* copy = malloc(length + 1);
  if (copy == NULL) return NULL;
  memcpy(copy, text, length);
  copy[length] = '\0';
  return copy;
}
#endif

char* csv_field(const char* line, int number) {
  while (number > 0 && (line = strchr(line, ',')) != NULL) {
    ++line;
    --number;
  }
  return line == NULL ? NULL : strndup(line, strcspn(line, ",\n"));
}
