/* office KIND CONE: when an order can be delivered. */
#include <orders.h>
#include <stdio.h>
#include <stdlib.h>

int main(int argc, char** argv) {
  const char* kind = argc > 1 ? argv[1] : "red";
  const int cone = argc > 2 ? atoi(argv[2]) : 6;
  printf("%s brick, cone %d: %d days\n", kind, cone, order_days(kind, cone));
  return 0;
}
