#include "plan/usage.h"

#include <algorithm>
#include <cstdint>
#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::plan {

using model::Target;
using model::TargetKind;

namespace {
void add_once(std::vector<std::string>& into, const std::vector<std::string>& from) {
  std::set<std::string> seen(into.begin(), into.end());
  for (const auto& text : from) {
    if (seen.insert(text).second) into.push_back(text);
  }
}
bool is_library_option(const std::string& item) { return item.starts_with("-l"); }
}  // namespace

ExpressionContext Usage::context(const Target& head, const std::string& language, bool linking) const {
  ExpressionContext out;
  out.target = &head;
  out.language = language;
  out.linking = linking;
  out.place = head.place;
  return out;
}

void Usage::collect(const Target& head, const model::Values& items, const std::string& language,
                    std::vector<const Target*>& out) const {
  for (const auto& item : expressions_.evaluate(items, context(head, language, false))) {
    const Target* target = project_.target(item);
    if (target == nullptr || std::find(out.begin(), out.end(), target) != out.end()) continue;
    out.push_back(target);
    collect(head, target->handed_on.link_items, language, out);
  }
}

std::vector<const Target*> Usage::used(const Target& target, const std::string& language) const {
  const auto key = std::make_pair(&target, language);
  if (const auto it = used_.find(key); it != used_.end()) return it->second;
  std::vector<const Target*> out;
  collect(target, target.own.link_items, language, out);
  return used_[key] = out;
}

CompileUsage Usage::compile(const Target& target, const std::string& language) const {
  CompileUsage out;
  const auto here = context(target, language, false);
  const auto absolute = [&](const model::Values& values) {
    auto list = expressions_.evaluate(values, here);
    for (auto& folder : list) folder = files::absolute(folder, target.folder);
    return list;
  };
  std::vector<std::string> all_folders;
  std::vector<std::string> system;
  const auto own_folders = absolute(target.own.include_folders);
  add_once(all_folders, own_folders);
  add_once(system, absolute(target.own.system_include_folders));
  add_once(out.definitions, expressions_.evaluate(target.own.definitions, here));
  // One option once, where it stands first; "SHELL:" holds together what is to be repeated.
  add_once(out.options, expressions_.evaluate(target.own.compile_options, here));
  out.features = expressions_.evaluate(target.own.compile_features, here);
  for (const Target* used_target : used(target, language)) {
    const auto& handed = used_target->handed_on;
    const auto folders = absolute(handed.include_folders);
    add_once(all_folders, folders);
    // What an installed package hands on is not ours to warn about.
    if (used_target->imported) add_once(system, folders);
    add_once(system, absolute(handed.system_include_folders));
    add_once(out.definitions, expressions_.evaluate(handed.definitions, here));
    add_once(out.options, expressions_.evaluate(handed.compile_options, here));
    add_once(out.features, expressions_.evaluate(handed.compile_features, here));
    add_once(out.sources, expressions_.evaluate(handed.sources, here));
  }
  const std::set<std::string> system_set(system.begin(), system.end());
  const std::set<std::string> own_set(own_folders.begin(), own_folders.end());
  for (const auto& folder : all_folders) {
    if (system_set.contains(folder))
      out.system_include_folders.push_back(folder);
    else
      out.include_folders.push_back(folder);
  }
  return out;
}

bool Usage::gathered(const Target& target, const std::string& property, std::string& out) const {
  const bool from_users = property.starts_with("INTERFACE_");
  const std::string name = from_users ? property.substr(10) : property;
  static const std::map<std::string, model::Values model::Requirements::*> members = {
      {"INCLUDE_DIRECTORIES", &model::Requirements::include_folders},
      {"SYSTEM_INCLUDE_DIRECTORIES", &model::Requirements::system_include_folders},
      {"COMPILE_DEFINITIONS", &model::Requirements::definitions},
      {"COMPILE_OPTIONS", &model::Requirements::compile_options},
      {"COMPILE_FEATURES", &model::Requirements::compile_features},
      {"LINK_OPTIONS", &model::Requirements::link_options},
      {"LINK_DIRECTORIES", &model::Requirements::link_folders}};
  const auto it = members.find(name);
  if (it == members.end()) return false;
  const auto here = context(target, "", false);
  std::vector<std::string> all =
      expressions_.evaluate((from_users ? target.handed_on : target.own).*(it->second), here);
  std::vector<const Target*> reached;
  collect(target, (from_users ? target.handed_on : target.own).link_items, "", reached);
  for (const Target* other : reached) add_once(all, expressions_.evaluate(other->handed_on.*(it->second), here));
  out = text::join(all, ";");
  return true;
}

// ---- linking -------------------------------------------------------------------------------------------------------

namespace {

// What an archive links without saying so to those that use it.
model::Values not_handed_on(const Target& target) {
  model::Values out;
  for (const auto& item : target.own.link_items) {
    const bool said = std::any_of(
        target.handed_on.link_items.begin(), target.handed_on.link_items.end(),
        [&](const auto& other) { return other.text == item.text || other.text == "$<LINK_ONLY:" + item.text + ">"; });
    if (!said && !item.text.empty()) out.push_back(item);
  }
  return out;
}

// A word of the link line: a target, or a text.
struct Node {
  const Target* target = nullptr;
  std::string text;
  std::vector<std::size_t> next;
  int component = -1;
};

class LinkGraph {
 public:
  std::vector<Node> nodes;

  std::size_t node_of(const Target* target) {
    const auto [it, fresh] = by_target_.emplace(target, nodes.size());
    if (fresh) nodes.push_back({target, {}, {}, -1});
    return it->second;
  }
  std::size_t node_of(const std::string& text) {
    const auto [it, fresh] = by_text_.emplace(text, nodes.size());
    if (fresh) nodes.push_back({nullptr, text, {}, -1});
    return it->second;
  }
  std::size_t option(const std::string& text) {  // options are kept each in their place
    nodes.push_back({nullptr, text, {}, -1});
    return nodes.size() - 1;
  }

  // Users before what they use; strongly connected parts (archives that need each other) come as groups. Where that
  // leaves a choice, the roots come first, and the order of naming counts.
  std::vector<std::vector<std::size_t>> order(const std::vector<std::size_t>& roots) {
    for (auto it = roots.rbegin(); it != roots.rend(); ++it) {
      if (!index_.contains(*it)) visit(*it);
    }
    const auto named = order_of_naming(roots);
    std::vector<bool> is_root(nodes.size(), false);
    for (const auto root : roots) is_root[root] = true;
    std::vector<std::size_t> component_of(nodes.size(), 0);
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
        for (const auto needed : nodes[node].next) {
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
    std::vector<std::size_t> out(nodes.size(), SIZE_MAX);
    std::size_t count = 0;
    std::vector<std::size_t> stack(roots.rbegin(), roots.rend());
    while (!stack.empty()) {
      const std::size_t node = stack.back();
      stack.pop_back();
      if (out[node] != SIZE_MAX) continue;
      out[node] = count++;
      stack.insert(stack.end(), nodes[node].next.rbegin(), nodes[node].next.rend());
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
      const auto& next = nodes[node].next;
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

  std::map<const Target*, std::size_t> by_target_;
  std::map<std::string, std::size_t> by_text_;
  std::map<std::size_t, std::size_t> index_;
  std::map<std::size_t, std::size_t> low_;
  std::set<std::size_t> on_stack_;
  std::vector<std::size_t> stack_;
  std::vector<std::vector<std::size_t>> components_;
  std::size_t counter_ = 0;
};

}  // namespace

LinkUsage Usage::link(const Target& target, const std::string& language) const {
  LinkUsage out;
  const auto here = context(target, language, true);
  LinkGraph graph;
  std::set<const Target*> expanded;
  std::vector<std::size_t> roots;
  std::vector<std::string> handed_options;

  std::function<std::vector<std::size_t>(const model::Values&, bool)> nodes_for;
  const std::function<void(const Target*)> expand = [&](const Target* used_target) {
    if (!expanded.insert(used_target).second) return;
    const std::size_t node = graph.node_of(used_target);
    auto next = nodes_for(used_target->handed_on.link_items, false);
    // An archive is linked to nothing: what it needs, from its folder too, is needed by whoever links it.
    if (used_target->kind == TargetKind::static_library && !used_target->imported) {
      for (const std::size_t more : nodes_for(not_handed_on(*used_target), false)) {
        if (std::find(next.begin(), next.end(), more) == next.end()) next.push_back(more);
      }
    }
    graph.nodes[node].next = next;
    add_once(out.folders, expressions_.evaluate(used_target->handed_on.link_folders, here));
    add_once(handed_options, expressions_.evaluate(used_target->handed_on.link_options, here));
  };
  nodes_for = [&](const model::Values& values, bool direct) {
    std::vector<std::size_t> list;
    auto items = expressions_.evaluate(values, here);
    for (const auto& raw : items) {
      // "-lz -lm" in one word, as some variables hold them.
      for (const auto& item : raw.find(' ') != std::string::npos && raw.starts_with('-')
                                  ? text::shell_words(raw)
                                  : std::vector<std::string>{raw}) {
        if (item.starts_with("::@")) continue;
        if (const Target* used_target = project_.target(item); used_target != nullptr) {
          if (used_target->kind == TargetKind::custom) continue;
          if (used_target->kind == TargetKind::object_set && direct &&
              std::find(out.object_sets.begin(), out.object_sets.end(), used_target) == out.object_sets.end())
            out.object_sets.push_back(used_target);
          list.push_back(graph.node_of(used_target));
          expand(used_target);
        } else if (item.find("::") != std::string::npos && item.find('/') == std::string::npos &&
                   !item.starts_with('-')) {
          throw Fault({Exit::description,
                       target.place,
                       "'" + target.name + "' links '" + item + "', which is not declared",
                       "",
                       "look for the find_package that should declare it, or for a misspelt name",
                       {}});
        } else if (item.starts_with("-L") && item.size() > 2) {
          add_once(out.folders, {item.substr(2)});
        } else if (item.starts_with('-') && !is_library_option(item)) {
          list.push_back(graph.option(item));
        } else if (item.find('/') != std::string::npos || is_library_option(item) || item.ends_with(".a") ||
                   item.ends_with(".so") || item.ends_with(".o")) {
          list.push_back(graph.node_of(item.starts_with('/') || is_library_option(item) ? item
                                       : item.find('/') != std::string::npos ? files::absolute(item, target.folder)
                                                                             : item));
        } else {
          list.push_back(graph.node_of("-l" + item));
        }
      }
    }
    return list;
  };
  roots = nodes_for(target.own.link_items, true);
  add_once(out.folders, expressions_.evaluate(target.own.link_folders, here));
  add_once(out.options, expressions_.evaluate(target.own.link_options, here));
  add_once(out.options, handed_options);

  const auto emit = [&](std::size_t index, bool repeated) {
    const Node& node = graph.nodes[index];
    if (node.target == nullptr) {
      out.items.push_back(node.text);
      return;
    }
    const Target* used_target = node.target;
    if (used_target == &target) return;
    const auto& artifact = artifacts_.of(*used_target);
    if (artifact.linker_file.empty() || used_target->kind == TargetKind::interface_library ||
        used_target->kind == TargetKind::object_set || used_target->kind == TargetKind::module_library)
      return;
    if (used_target->kind == TargetKind::program && !property_on(*used_target, "ENABLE_EXPORTS")) return;
    out.items.push_back(artifact.linker_file);
    if (!used_target->imported && !repeated) out.targets.push_back(used_target);
  };
  // What the description names comes first, as it is named: trees count on it for archives that do not say what they
  // need. Behind it comes what those need, users first; what is needed by something behind it comes again: linkers drop
  // shared libraries, too, that nothing before them needs.
  std::vector<std::size_t> last(graph.nodes.size(), 0);           // its last place on the line, from 1; 0: none yet
  std::vector<std::size_t> needed_behind(graph.nodes.size(), 0);  // the last place of those that need it
  std::size_t place = 0;
  const auto put = [&](std::size_t index) {
    emit(index, last[index] != 0);
    last[index] = ++place;
  };
  std::vector<std::size_t> first_named;
  for (const auto root : roots) {
    const Node& node = graph.nodes[root];
    const bool archive =
        node.target != nullptr ? node.target->kind == TargetKind::static_library : node.text.ends_with(".a");
    if (last[root] == 0) first_named.push_back(root);
    if (last[root] == 0 || archive) put(root);
  }
  for (const auto& component : graph.order(first_named)) {
    for (const auto index : component) {
      if (needed_behind[index] > last[index] || last[index] == 0) put(index);
    }
    // Archives that need each other are searched twice.
    if (component.size() > 1) {
      for (const auto index : component) put(index);
    }
    for (const auto index : component) {
      for (const auto needed : graph.nodes[index].next)
        needed_behind[needed] = std::max({needed_behind[needed], last[index], needed_behind[index]});
    }
  }
  // Shared libraries behind shared libraries: the linker has to find them, but they are not on the line.
  std::set<const Target*> seen(out.targets.begin(), out.targets.end());
  std::vector<const Target*> queue;
  for (const Target* used_target : out.targets) {
    if (used_target->kind == TargetKind::shared_library) queue.push_back(used_target);
  }
  std::set<const Target*> walked;
  while (!queue.empty()) {
    const Target* from = queue.back();
    queue.pop_back();
    if (!walked.insert(from).second) continue;
    std::vector<const Target*> behind;
    for (const auto& item : expressions_.evaluate(from->own.link_items, context(*from, language, true))) {
      if (const Target* other = project_.target(item)) behind.push_back(other);
    }
    for (const auto& item : expressions_.evaluate(from->handed_on.link_items, context(*from, language, true))) {
      if (const Target* other = project_.target(item)) behind.push_back(other);
    }
    for (const Target* other : behind) {
      if (other->imported) continue;
      queue.push_back(other);
      if (other->kind == TargetKind::shared_library && seen.insert(other).second) out.shared_behind.push_back(other);
    }
  }
  return out;
}

}  // namespace coctilis::plan
