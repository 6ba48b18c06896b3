#include "report/figures/layout.h"

#include <fmt/format.h>

#include <cstdlib>
#include <limits>

#include "base/result.h"
#include "base/shared_library.h"
#include "base/text.h"

namespace coctilis::report {

namespace {

// The functions that are called, as "gvc.h" and "cgraph.h" of the library's sixth interface declare them. They are
// declared here because all that their headers bring along is of no use without them.
constinit const SharedLibrary layout_library("libgvc.so.6");
constinit const SharedLibrary graph_library("libcgraph.so.6");

template <class Type>
Type* function(const SharedLibrary& library, const char* name) {
  return reinterpret_cast<Type*>(library.function(name));
}

// Pixels in an inch, of which the layout has its units.
constexpr double inch = 96;

std::string description_of(const std::vector<GraphNode>& nodes, const std::vector<GraphEdge>& edges) {
  std::string out =
      "digraph g{rankdir=LR;nodesep=0.12;ranksep=0.55;splines=true;node[shape=box,fixedsize=true,label=\"\"];\n";
  for (std::size_t i = 0; i < nodes.size(); ++i)
    out += fmt::format("n{}[width={:.3f},height={:.3f}];\n", i, nodes[i].width / inch, nodes[i].height / inch);
  for (const auto& edge : edges) out += fmt::format("n{}->n{}[arrowhead=none];\n", edge.from, edge.to);
  return out + "}\n";
}

// What the library says in plain words: "graph scale width height", "node name x y ...", "edge tail head n x1 y1 ...",
// in inches from the lower left.
std::optional<Layout> read(const std::string& text, std::size_t nodes, const std::vector<GraphEdge>& edges) {
  Layout out;
  out.nodes.resize(nodes);
  out.edges.resize(edges.size());
  std::vector<bool> taken(edges.size(), false);
  double height = 0;
  const auto number = [](const std::string& word) { return std::strtod(word.c_str(), nullptr); };
  const auto place = [](const std::string& word) -> std::size_t {
    return word.size() > 1 && word[0] == 'n' ? std::strtoul(word.c_str() + 1, nullptr, 10)
                                             : std::numeric_limits<std::size_t>::max();
  };
  for (const auto& line : text::split(text::replace_all(text, "\\\n", ""), '\n')) {
    const auto words = text::words(line);
    if (words.size() >= 4 && words[0] == "graph") {
      out.width = number(words[2]) * inch;
      height = number(words[3]);
      out.height = height * inch;
    } else if (words.size() >= 4 && words[0] == "node" && place(words[1]) < nodes) {
      out.nodes[place(words[1])] = {number(words[2]) * inch, (height - number(words[3])) * inch};
    } else if (words.size() >= 4 && words[0] == "edge") {
      const auto count = static_cast<std::size_t>(std::max(0.0, number(words[3])));
      for (std::size_t i = 0; i < edges.size(); ++i) {
        if (taken[i] || edges[i].from != place(words[1]) || edges[i].to != place(words[2])) continue;
        taken[i] = true;
        for (std::size_t k = 0; k < count && 5 + 2 * k < words.size(); ++k) {
          out.edges[i].push_back(number(words[4 + 2 * k]) * inch);
          out.edges[i].push_back((height - number(words[5 + 2 * k])) * inch);
        }
        break;
      }
    }
  }
  if (out.width <= 0 || out.height <= 0) return std::nullopt;
  return out;
}

}  // namespace

std::optional<Layout> layout_of(const std::vector<GraphNode>& nodes, const std::vector<GraphEdge>& edges) {
  if (nodes.empty()) return std::nullopt;
  try {
    auto* const context = function<void*()>(layout_library, "gvContext")();
    auto* const graph = function<void*(const char*)>(graph_library, "agmemread")(description_of(nodes, edges).c_str());
    std::optional<Layout> out;
    if (context != nullptr && graph != nullptr &&
        function<int(void*, void*, const char*)>(layout_library, "gvLayout")(context, graph, "dot") == 0) {
      char* text = nullptr;
      unsigned int length = 0;
      if (function<int(void*, void*, const char*, char**, unsigned int*)>(layout_library, "gvRenderData")(
              context, graph, "plain", &text, &length) == 0 &&
          text != nullptr) {
        out = read(std::string(text, length), nodes.size(), edges);
        function<void(char*)>(layout_library, "gvFreeRenderData")(text);
      }
      function<int(void*, void*)>(layout_library, "gvFreeLayout")(context, graph);
    }
    if (graph != nullptr) function<int(void*)>(graph_library, "agclose")(graph);
    if (context != nullptr) function<int(void*)>(layout_library, "gvFreeContext")(context);
    return out;
  } catch (const Fault&) {
    return std::nullopt;
  }
}

}  // namespace coctilis::report
