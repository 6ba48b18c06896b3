/* What is in the yard. */
#include <clay.h>
#include <orders.h>
#include <stdio.h>

int main(void) {
  const char* kinds[] = {"red", "yellow", "fire"};
  for (int i = 0; i < 3; ++i) printf("%s: %.2f of water, %d days\n", kinds[i], clay_water(kinds[i]), order_days(kinds[i], 4));
  return 0;
}
