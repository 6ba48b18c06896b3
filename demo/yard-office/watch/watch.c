// Watches the sensors of a kiln: kiln-watch FILE, a line for each sensor.
#include <stdio.h>

int main(int argc, char** argv) {
  FILE* file = argc > 1 ? fopen(argv[1], "r") : NULL;
  if (file == NULL) {
    fprintf(stderr, "usage: kiln-watch FILE\n");
    return 2;
  }
  int sensor = 0;
  int degrees = 0;
  while (fscanf(file, "%d %d", &sensor, &degrees) == 2) {
    if (degrees < 0)
      printf("error: sensor %d does not answer\n", sensor);
    else
      printf("sensor %d: %d degrees\n", sensor, degrees);
  }
  fclose(file);
  printf("watch is over\n");
  return 0;
}
