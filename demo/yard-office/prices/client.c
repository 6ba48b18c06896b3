// Asks the server for a price: price-client PORT NAME.
#include <arpa/inet.h>
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

int main(int argc, char** argv) {
  if (argc < 3) {
    fprintf(stderr, "usage: price-client PORT NAME\n");
    return 2;
  }
  struct sockaddr_in address = {.sin_family = AF_INET, .sin_port = htons((unsigned short)atoi(argv[1]))};
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  const int server = socket(AF_INET, SOCK_STREAM, 0);
  if (connect(server, (struct sockaddr*)&address, sizeof address) != 0) {
    fprintf(stderr, "price-client: cannot connect to localhost:%s: %s\n", argv[1], strerror(errno));
    return 1;
  }
  char words[100];
  snprintf(words, sizeof words, "price %s\n", argv[2]);
  if (write(server, words, strlen(words)) < 0) return 1;
  char reply[100] = "";
  if (read(server, reply, sizeof reply - 1) <= 0) return 1;
  printf("%s costs %s", argv[2], reply);
  return strncmp(reply, "no", 2) == 0 ? 1 : 0;
}
