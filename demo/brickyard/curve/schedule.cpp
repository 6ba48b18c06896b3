#include <cstdlib>
#include <fstream>
#include <stdexcept>

#include "curve/curve.h"
#include "textline.h"

namespace curve {

std::vector<Leg> read_schedule(const std::string& path) {
  std::ifstream in(path);
  if (!in) throw std::runtime_error("cannot read " + path);
  std::vector<Leg> legs;
  std::string line;
  for (int number = 1; std::getline(in, line); ++number) {
    if (line.empty() || line[0] == '#') continue;
    char* fields[3];
    if (textline_split(line.data(), ',', fields, 3) != 3) throw std::runtime_error(path + ":" + std::to_string(number) + ": three fields expected");
    legs.push_back({std::atof(textline_trim(fields[0])), std::atof(textline_trim(fields[1])), std::atof(textline_trim(fields[2]))});
  }
  return legs;
}

}  // namespace curve
