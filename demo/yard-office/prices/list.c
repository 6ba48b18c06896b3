#include "list.h"

#include <stdio.h>
#include <string.h>

static struct {
  char name[40];
  int cents;
} list[100];
static int count;

int read_prices(const char* path) {
  FILE* file = fopen(path, "r");
  if (file == NULL) return -1;
  while (count < 100 && fscanf(file, "%39s %d", list[count].name, &list[count].cents) == 2) ++count;
  fclose(file);
  return 0;
}

int price_of(const char* name) {
  for (int i = 0; i < count; ++i) {
    if (strcmp(list[i].name, name) == 0) return list[i].cents;
  }
  return -1;
}

void write_prices(char* into, unsigned long size) {
  unsigned long used = (unsigned long)snprintf(into, size, "{");
  for (int i = 0; i < count && used < size; ++i)
    used += (unsigned long)snprintf(into + used, size - used, "%s\"%s\": %d", i == 0 ? "" : ", ", list[i].name, list[i].cents);
  if (used < size) snprintf(into + used, size - used, "}\n");
}
