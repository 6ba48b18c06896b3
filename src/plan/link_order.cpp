#include "plan/link_order.h"

#include <algorithm>
#include <cstdint>
#include <map>
#include <set>

namespace coctilis::plan {

namespace {

using Items = std::vector<model::LinkItem>;

class LinkGraph {
 public:
  explicit LinkGraph(const Items& items) : nodes_(items) {}

  // Users before what they use; strongly connected parts (archives that need each other) come as groups. Where that
  // leaves a choice, the roots come first, and the order of naming counts.
  std::vector<std::vector<std::size_t>> order(const std::vector<std::size_t>& roots) {
    for (auto it = roots.rbegin(); it != roots.rend(); ++it) {
      if (!index_.contains(*it)) visit(*it);
    }
    const auto named = order_of_naming(roots);
    std::vector<bool> is_root(nodes_.size(), false);
    for (const auto root : roots) is_root[root] = true;
    std::vector<std::size_t> component_of(nodes_.size(), 0);
    std::vector<std::pair<bool, std::size_t>> rank(components_.size(), {true, SIZE_MAX});
    for (std::size_t c = 0; c < components_.size(); ++c) {
      for (const auto node : components_[c]) {
        component_of[node] = c;
        rank[c] = std::min(rank[c], {!is_root[node], named[node]});
      }
    }
    std::vector<std::size_t> users(components_.size(), 0);
    const auto for_needed = [&](std::size_t c, const auto& what) {
      for (const auto node : components_[c]) {
        for (const auto needed : nodes_[node].needs) {
          if (component_of[needed] != c) what(component_of[needed]);
        }
      }
    };
    for (std::size_t c = 0; c < components_.size(); ++c) for_needed(c, [&](std::size_t other) { ++users[other]; });
    std::set<std::pair<std::pair<bool, std::size_t>, std::size_t>> free;
    for (std::size_t c = 0; c < components_.size(); ++c) {
      if (users[c] == 0) free.insert({rank[c], c});
    }
    std::vector<std::vector<std::size_t>> out;
    while (!free.empty()) {
      const std::size_t c = free.begin()->second;
      free.erase(free.begin());
      for_needed(c, [&](std::size_t other) {
        if (--users[other] == 0) free.insert({rank[other], other});
      });
      out.push_back(components_[c]);
    }
    return out;
  }

 private:
  // Every node's place when they are walked through from the roots on, each with what it needs behind it.
  [[nodiscard]] std::vector<std::size_t> order_of_naming(const std::vector<std::size_t>& roots) const {
    std::vector<std::size_t> out(nodes_.size(), SIZE_MAX);
    std::size_t count = 0;
    std::vector<std::size_t> stack(roots.rbegin(), roots.rend());
    while (!stack.empty()) {
      const std::size_t node = stack.back();
      stack.pop_back();
      if (out[node] != SIZE_MAX) continue;
      out[node] = count++;
      stack.insert(stack.end(), nodes_[node].needs.rbegin(), nodes_[node].needs.rend());
    }
    return out;
  }

  // Tarjan's algorithm: strongly connected parts, those that are needed before those that need them.
  void visit(std::size_t root) {
    // Iterative: chains of libraries can be long.
    struct Frame {
      std::size_t node;
      std::size_t child;
    };
    std::vector<Frame> frames{{root, 0}};
    open(root);
    while (!frames.empty()) {
      auto& [node, child] = frames.back();
      const auto& next = nodes_[node].needs;
      if (child < next.size()) {
        // The last named first: reversed at the end, the order of naming comes out.
        const std::size_t to = next[next.size() - 1 - child++];
        if (!index_.contains(to)) {
          open(to);
          frames.push_back({to, 0});
        } else if (on_stack_.contains(to)) {
          low_[node] = std::min(low_[node], index_[to]);
        }
        continue;
      }
      if (low_[node] == index_[node]) {
        std::vector<std::size_t> component;
        for (;;) {
          const std::size_t member = stack_.back();
          stack_.pop_back();
          on_stack_.erase(member);
          component.push_back(member);
          if (member == node) break;
        }
        std::reverse(component.begin(), component.end());
        components_.push_back(std::move(component));
      }
      const std::size_t done = node;
      frames.pop_back();
      if (!frames.empty()) low_[frames.back().node] = std::min(low_[frames.back().node], low_[done]);
    }
  }
  void open(std::size_t node) {
    index_[node] = low_[node] = counter_++;
    stack_.push_back(node);
    on_stack_.insert(node);
  }

  const Items& nodes_;
  std::map<std::size_t, std::size_t> index_;
  std::map<std::size_t, std::size_t> low_;
  std::set<std::size_t> on_stack_;
  std::vector<std::size_t> stack_;
  std::vector<std::vector<std::size_t>> components_;
  std::size_t counter_ = 0;
};

}  // namespace

std::vector<std::size_t> link_order(const model::LinkSettings& link) {
  std::vector<std::size_t> out;
  const Items& items = link.items;
  std::vector<std::size_t> last(items.size(), 0);           // its last place on the line, from 1; 0: none yet
  std::vector<std::size_t> needed_behind(items.size(), 0);  // the last place of those that need it
  const auto put = [&](std::size_t index) {
    out.push_back(index);
    last[index] = out.size();
  };
  std::vector<std::size_t> first_named;
  for (const auto root : link.named) {
    if (last[root] == 0) first_named.push_back(root);
    if (last[root] == 0 || items[root].archive) put(root);
  }
  for (const auto& component : LinkGraph(items).order(first_named)) {
    for (const auto index : component) {
      if (needed_behind[index] > last[index] || last[index] == 0) put(index);
    }
    if (component.size() > 1) {
      for (const auto index : component) put(index);
    }
    for (const auto index : component) {
      for (const auto needed : items[index].needs)
        needed_behind[needed] = std::max({needed_behind[needed], last[index], needed_behind[index]});
    }
  }
  return out;
}

}  // namespace coctilis::plan
