// stockbook: what lies in stock.
#include <cstdio>
#include <cstring>
#include <exception>

#include "brickyard_config.h"
#include "ledger/ledger.h"

int main(int argc, char** argv) {
  if (argc == 2 && std::strcmp(argv[1], "--help") == 0) {
    std::puts("usage: stockbook --count FILE...");
    return 0;
  }
  if (argc == 2 && std::strcmp(argv[1], "--version") == 0) {
    std::puts("stockbook " BRICKYARD_VERSION);
    return 0;
  }
  if (argc < 3 || std::strcmp(argv[1], "--count") != 0) {
    std::fputs("usage: stockbook --count FILE...\n", stderr);
    return 2;
  }
  try {
    ledger::Ledger book;
    for (int i = 2; i < argc; ++i) std::printf("%d lines of %s\n", book.add_file(argv[i]), argv[i]);
    for (const auto& [kind, pieces] : book.totals()) std::printf("%-16s %8ld\n", kind.c_str(), pieces);
    std::printf("counted over %d shifts\n", BRICKYARD_SHIFTS);
  } catch (const std::exception& error) {
    std::fprintf(stderr, "stockbook: %s\n", error.what());
    return 1;
  }
  return 0;
}
