// What uses what: the targets of the tree, and the libraries of the system that they link.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/text.h"
#include "report/figures/figures.h"
#include "report/figures/layout.h"

namespace coctilis::report {

namespace {

// More than that nobody reads: those of a folder stand together then, and of folders those of one above.
constexpr std::size_t most_nodes = 60;

struct Node {
  std::string name;
  std::string tells;
  Ink ink = Ink::first;
};

struct Graph {
  std::vector<Node> nodes;
  std::set<std::pair<std::size_t, std::size_t>> edges;
  bool folded = false;
};

std::string beginning_of(const std::string& folder, std::size_t parts) {
  std::size_t at = 0;
  for (std::size_t i = 0; i < parts; ++i) {
    at = folder.find('/', at == 0 ? 0 : at + 1);
    if (at == std::string::npos) return folder;
  }
  return folder.substr(0, at);
}

Ink ink_of(const std::string& kind) {
  if (kind == "program") return Ink::first;
  return kind.find("library") != std::string::npos ? Ink::third : Ink::line;
}

// `parts`: how much of a folder's path tells targets apart; 0: each stands alone.
Graph graph_of(const std::vector<Course::Target>& targets, std::size_t parts) {
  Graph out;
  out.folded = parts > 0;
  std::map<std::string, std::size_t> places;
  std::map<std::string, std::string> group;
  std::map<std::string, std::size_t> members;
  for (const auto& target : targets) {
    const std::string name = parts == 0 ? target.name : beginning_of(target.folder, parts) + "/";
    group[target.name] = name;
    ++members[name];
    if (places.emplace(name, out.nodes.size()).second)
      out.nodes.push_back({name, target.kind, parts == 0 ? ink_of(target.kind) : Ink::third});
  }
  if (out.folded) {
    for (auto& node : out.nodes) node.tells = text::count(members[node.name], "target");
  }
  for (const auto& target : targets) {
    const auto from = places.at(group.at(target.name));
    for (const auto& used : target.uses) {
      const auto it = group.find(used);
      if (it != group.end() && places.at(it->second) != from) out.edges.emplace(from, places.at(it->second));
    }
    for (const auto& library : target.libraries) {
      const auto [it, fresh] = places.emplace("\n" + library, out.nodes.size());
      if (fresh) out.nodes.push_back({library, "library of the system", Ink::line});
      out.edges.emplace(from, it->second);
    }
  }
  return out;
}

// What one of its own already uses goes without saying.
void leave_out_indirect(Graph& graph) {
  std::vector<std::vector<std::size_t>> used(graph.nodes.size());
  for (const auto& [from, to] : graph.edges) used[from].push_back(to);
  std::set<std::pair<std::size_t, std::size_t>> plain;
  for (const auto& edge : graph.edges) {
    const auto& others = used[edge.first];
    const bool indirect = std::any_of(others.begin(), others.end(), [&](auto other) {
      return other != edge.second && graph.edges.contains({other, edge.second}) &&
             !graph.edges.contains({edge.second, other});
    });
    if (!indirect) plain.insert(edge);
  }
  graph.edges = std::move(plain);
}

}  // namespace

std::optional<Figure> targets_figure(const Material& material) {
  std::vector<Course::Target> targets;
  for (const auto& target : material.run.targets) {
    if (target.in_default) targets.push_back(target);
  }
  if (targets.size() < 2) return std::nullopt;
  Graph graph = graph_of(targets, 0);
  for (std::size_t parts = 4; graph.nodes.size() > most_nodes && parts > 0; --parts) graph = graph_of(targets, parts);
  if (graph.nodes.size() > 400 || graph.edges.empty()) return std::nullopt;
  leave_out_indirect(graph);

  Figure out{"targets", "What uses what", {}, {}, "from,to,what\n"};
  std::map<std::size_t, std::size_t> users;
  for (const auto& [from, to] : graph.edges) {
    ++users[to];
    out.data +=
        fmt::format("{},{},{}\n", csv(graph.nodes[from].name), csv(graph.nodes[to].name), csv(graph.nodes[to].tells));
  }
  const auto most =
      std::max_element(users.begin(), users.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
  out.sentence = text::count(targets.size(), "target") + (graph.folded ? ", those of a folder together" : "") +
                 fmt::format(
                     "; {} is used by most others ({}). What stands to the left uses what it leads to; what it uses "
                     "only by another is not drawn.",
                     graph.nodes[most->first].name, most->second);

  std::vector<GraphNode> nodes;
  for (const auto& node : graph.nodes) nodes.push_back({node.name, std::min(width_of(node.name), 230.0) + 16, 22});
  std::vector<GraphEdge> edges;
  for (const auto& [from, to] : graph.edges) edges.push_back({from, to});
  const auto layout = layout_of(nodes, edges);
  auto& drawing = out.drawing;
  if (!layout) {
    drawing.width = figure_width;
    drawing.height = 24;
    drawing.write(Ink::soft, 8, 16,
                  "It cannot be drawn: the library libgvc, or what it needs, is not there. Its numbers are.");
    return out;
  }
  constexpr double top = 26;
  drawing.width = std::max(layout->width + 16, 560.0);
  drawing.height = layout->height + top + 10;
  write_legend(drawing, 8, 13,
               {{Ink::first, "program"}, {Ink::third, "library"}, {Ink::line, "of the system, or a command"}});
  for (const auto& edge : layout->edges) {
    std::vector<double> points;
    for (std::size_t i = 0; i + 1 < edge.size(); i += 2) points.insert(points.end(), {edge[i] + 8, edge[i + 1] + top});
    drawing.way(Ink::soft, std::move(points));
  }
  for (std::size_t i = 0; i < nodes.size(); ++i) {
    const double x = layout->nodes[i].x + 8 - nodes[i].width / 2;
    const double y = layout->nodes[i].y + top - nodes[i].height / 2;
    drawing.box(graph.nodes[i].ink, x, y, nodes[i].width, nodes[i].height,
                graph.nodes[i].name + ": " + graph.nodes[i].tells);
    drawing.write(Ink::text, x + nodes[i].width / 2, y + 15, fitted(graph.nodes[i].name, nodes[i].width - 8),
                  Anchor::middle);
  }
  return out;
}

}  // namespace coctilis::report
