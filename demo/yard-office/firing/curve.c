// The temperature of a kiln over a firing, worked out in steps by several threads: firing-curve THREADS.
#include <math.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>

enum { hours = 48, most_threads = 16 };
static double temperature[hours];
static int threads;

static double at(int hour) {
  const double x = (double)hour / hours;
  return 20 + 1202 * pow(sin(3.141592653589793 * x), 1.5);
}

static void* work(void* which) {
  for (int hour = (int)(long)which; hour < hours; hour += threads) temperature[hour] = at(hour);
  return NULL;
}

int main(int argc, char** argv) {
  threads = argc > 1 ? atoi(argv[1]) : 1;
  if (threads < 1 || threads > most_threads) {
    fprintf(stderr, "usage: firing-curve THREADS (1 to %d)\n", most_threads);
    return 2;
  }
  pthread_t all[most_threads];
  for (long i = 0; i < threads; ++i) pthread_create(&all[i], NULL, work, (void*)i);
  for (int i = 0; i < threads; ++i) pthread_join(all[i], NULL);
  FILE* file = fopen("curve.csv", "w");
  if (file == NULL) {
    perror("firing-curve: curve.csv");
    return 1;
  }
  fprintf(file, "hour,temperature\n");
  double peak = 0;
  double heat = 0;
  for (int hour = 0; hour < hours; ++hour) {
    fprintf(file, "%d,%.9f\n", hour, temperature[hour]);
    peak = fmax(peak, temperature[hour]);
    heat += temperature[hour];
  }
  fclose(file);
  printf("hours %d\npeak %.6f\nheat %a\n", hours, peak, heat);
  return 0;
}
