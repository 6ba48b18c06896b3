// Where the nodes and edges of a graph are best drawn.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace coctilis::report {

struct GraphNode {
  std::string name;
  double width = 0, height = 0;  // pixels
};
// From one node to another, by their places.
struct GraphEdge {
  std::size_t from = 0, to = 0;
};

struct Layout {
  double width = 0, height = 0;  // pixels
  struct At {
    double x = 0, y = 0;  // of the middle, from the upper left
  };
  std::vector<At> nodes;
  std::vector<std::vector<double>> edges;  // points, x and y in turn, of the way of each
};

// In layers, from left to right. Nothing where the library that works this out is not there (libgvc), or cannot.
[[nodiscard]] std::optional<Layout> layout_of(const std::vector<GraphNode>& nodes, const std::vector<GraphEdge>& edges);

}  // namespace coctilis::report
