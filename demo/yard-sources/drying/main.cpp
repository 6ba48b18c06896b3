#include <csvline.h>

#include <cstdlib>
#include <iostream>
#include <thread>

#include "shed.hpp"

// "24,60" on the command line is a shed of 24 degrees and 60 percent.
int main(int argc, char** argv) {
  Shed shed;
  if (argc > 1) {
    char* warmth = csv_field(argv[1], 0);
    char* humidity = csv_field(argv[1], 1);
    if (warmth != nullptr) shed.warmth = std::atof(warmth);
    if (humidity != nullptr) shed.humidity = std::atof(humidity);
    std::free(warmth);
    std::free(humidity);
  }
  double brick = 0;
  double tile = 0;
  std::thread other([&] { tile = days(shed, 22, 12); });
  brick = days(shed, 26, 12);
  other.join();
  std::cout << "bricks " << brick << " days, tiles " << tile << " days\n";
}
