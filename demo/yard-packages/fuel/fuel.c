/* fuel CONE: what a tonne of bricks takes. */
#include <heat.h>
#include <stdio.h>
#include <stdlib.h>

int main(int argc, char** argv) {
  const int cone = argc > 1 ? atoi(argv[1]) : 6;
  printf("cone %d takes %.0f MJ a tonne\n", cone, heat_for_cone(cone));
  return heat_for_cone(cone) > 0 ? 0 : 1;
}
