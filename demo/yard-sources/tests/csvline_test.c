#include <string.h>

#include "csvline.h"

int main(void) {
  char* field = csv_field("roof,4200,red\n", 1);
  return field != NULL && strcmp(field, "4200") == 0 && csv_field("roof", 1) == NULL ? 0 : 1;
}
