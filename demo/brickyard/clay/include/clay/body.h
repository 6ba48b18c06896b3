// Clay bodies: mixtures that bricks and tiles are pressed from.
#pragma once

#include <string>
#include <vector>

namespace clay {

struct Body {
  std::string name;
  double alumina = 0;   // share of mass, 0..1
  double silica = 0;    // share of mass, 0..1
  double moisture = 0;  // share of mass when it leaves the press
};

// All bodies the works mixes.
const std::vector<Body>& bodies();

// The body of that name, or nullptr.
const Body* find_body(const std::string& name);

// How much shorter a piece comes out of the kiln, as a share of its length.
double shrinkage(const Body& body, double peak_celsius);

}  // namespace clay
