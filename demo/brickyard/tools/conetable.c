/* Turns data/cones.txt into the rows of a C++ table. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char **argv) {
  FILE *in;
  FILE *out;
  char line[256];
  int cone;
  int celsius;
  if (argc == 2 && strcmp(argv[1], "--help") == 0) {
    puts("usage: conetable CONES TABLE");
    return 0;
  }
  if (argc != 3) {
    fputs("usage: conetable CONES TABLE\n", stderr);
    return 2;
  }
  in = fopen(argv[1], "r");
  if (in == NULL) {
    perror(argv[1]);
    return 1;
  }
  out = fopen(argv[2], "w");
  if (out == NULL) {
    perror(argv[2]);
    fclose(in);
    return 1;
  }
  while (fgets(line, sizeof line, in) != NULL) {
    if (line[0] == '#' || sscanf(line, "%d %d", &cone, &celsius) != 2) continue;
    fprintf(out, "{%d, %d},\n", cone, celsius);
  }
  fclose(in);
  return fclose(out) == 0 ? 0 : 1;
}
