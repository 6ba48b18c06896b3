// Tells prices: by HTTP the whole list (GET /prices), by a line "price NAME" one of them.
#include <arpa/inet.h>
#include <errno.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "list.h"

static volatile sig_atomic_t ended;
static void end(int number) {
  (void)number;
  ended = 1;
}

static void answer(int client) {
  char asked[1000] = "";
  char page[4000];
  char reply[5000] = "";
  char name[40] = "";
  const ssize_t size = read(client, asked, sizeof asked - 1);
  if (size <= 0) return;
  if (strncmp(asked, "GET /prices ", 12) == 0) {
    write_prices(page, sizeof page);
    snprintf(reply, sizeof reply, "HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: %zu\r\n\r\n%s",
             strlen(page), page);
  } else if (strncmp(asked, "GET ", 4) == 0) {
    snprintf(reply, sizeof reply, "HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\n\r\n");
  } else if (sscanf(asked, "price %39s", name) == 1) {
    snprintf(reply, sizeof reply, price_of(name) < 0 ? "no such thing\n" : "%d\n", price_of(name));
  }
  if (write(client, reply, strlen(reply)) < 0) perror("price-server");
}

int main(int argc, char** argv) {
  if (argc < 3) {
    fprintf(stderr, "usage: price-server PORT LIST\n");
    return 2;
  }
  if (read_prices(argv[2]) != 0) {
    fprintf(stderr, "price-server: cannot read %s: %s\n", argv[2], strerror(errno));
    return 1;
  }
  struct sigaction action = {.sa_handler = end};
  sigaction(SIGTERM, &action, NULL);
  struct sockaddr_in address = {.sin_family = AF_INET, .sin_port = htons((unsigned short)atoi(argv[1]))};
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  const int yes = 1;
  const int listener = socket(AF_INET, SOCK_STREAM, 0);
  setsockopt(listener, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
  if (bind(listener, (struct sockaddr*)&address, sizeof address) != 0 || listen(listener, 20) != 0) {
    fprintf(stderr, "price-server: cannot listen on port %s: %s\n", argv[1], strerror(errno));
    return 1;
  }
  printf("prices at port %s\n", argv[1]);
  fflush(stdout);
  while (!ended) {
    const int client = accept(listener, NULL, NULL);
    if (client < 0) continue;
    answer(client);
    close(client);
  }
  printf("closed for today\n");
  return 0;
}
