// The command line of firecurve.
#pragma once

#include <string>

struct Options {
  int cone = 0;
  bool chart = false;
  bool help = false;
  bool version = false;
  std::string schedule;
  std::string problem;  // empty: all is well
};

Options read_options(int argc, char** argv);
