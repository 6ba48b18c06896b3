// Glazes for roof tiles.
#pragma once

#include <string>

namespace clay {

struct Glaze {
  std::string name;
  int lowest_cone = 0;
  int highest_cone = 0;
};

// The glaze that suits a cone best, or nullptr.
const Glaze* glaze_for(int cone);

}  // namespace clay
