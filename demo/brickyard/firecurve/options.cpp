#include "options.h"

#include <cstdlib>

Options read_options(int argc, char** argv) {
  Options options;
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    if (word == "--help") options.help = true;
    else if (word == "--version") options.version = true;
    else if (word == "--chart") options.chart = true;
    else if (word == "--cone" && i + 1 < argc) options.cone = std::atoi(argv[++i]);
    else if (options.schedule.empty() && word[0] != '-') options.schedule = word;
    else options.problem = "what is '" + word + "'?";
  }
  if (!options.help && !options.version && options.problem.empty() && options.schedule.empty()) options.problem = "which schedule?";
  return options;
}
