// The order book: order-book add NAME COUNT adds a line to orders.txt, order-book sum adds up what it holds.
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char** argv) {
  if (argc == 4 && strcmp(argv[1], "add") == 0) {
    FILE* file = fopen("orders.txt", "a");
    if (file == NULL) {
      perror("order-book: orders.txt");
      return 1;
    }
    fprintf(file, "%s %d\n", argv[2], atoi(argv[3]));
    fclose(file);
    return 0;
  }
  if (argc == 2 && strcmp(argv[1], "sum") == 0) {
    FILE* file = fopen("orders.txt", "r");
    if (file == NULL) {
      perror("order-book: orders.txt");
      return 1;
    }
    char name[40];
    int count = 0;
    int sum = 0;
    while (fscanf(file, "%39s %d", name, &count) == 2) sum += count;
    fclose(file);
    printf("%d pieces ordered\n", sum);
    return 0;
  }
  fprintf(stderr, "usage: order-book add NAME COUNT | sum\n");
  return 2;
}
