#include "engine/graph.h"

#include <algorithm>
#include <cassert>

#include "base/files.h"
#include "base/result.h"
#include "base/text.h"

namespace coctilis::engine {

Graph::Graph(const model::Plan& plan, const std::vector<bool>& selection,
             const std::function<double(std::size_t)>& seconds)
    : plan_(plan), selection_(selection), nodes_(plan.steps.size()) {
  connect();
  weigh(seconds, {});
}

std::vector<std::size_t> Graph::needed_by(std::size_t step) const {
  std::vector<std::size_t> out;
  const auto& of = plan_.steps[step];
  for (const auto* list : {&of.inputs, &of.input_folders, &of.after}) {
    for (const auto& input : *list) {
      if (const auto maker = maker_of(input); maker != none && maker != step) out.push_back(maker);
    }
  }
  if (const auto it = waits_besides_.find(step); it != waits_besides_.end())
    out.insert(out.end(), it->second.begin(), it->second.end());
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

void Graph::connect() {
  makers_.reserve(plan_.steps.size());
  const auto refuse = [&](std::size_t step, const std::string& output, std::size_t other) {
    throw Fault({Exit::description,
                 plan_.steps[step].place,
                 "'" + files::below(output, plan_.kiln) + "' is made by two steps",
                 "the other stands at " + plan_.steps[other].place.text(),
                 "give one of the two another name",
                 {}});
  };
  // Folders first: they claim all that lies in them.
  for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
    if (!selection_[i]) continue;
    for (const auto& folder : plan_.steps[i].output_folders) {
      assert(plan_.lies_among_results(folder));
      if (const auto other = makers_.claim_folder(folder, i); other != i) refuse(i, folder, other);
    }
  }
  for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
    if (!selection_[i]) continue;
    const auto& step = plan_.steps[i];
    for (const auto& output : step.outputs) {
      if (const auto other = makers_.claim(output, i); other != i) refuse(i, output, other);
    }
    for (const auto& output : step.byproducts) static_cast<void>(makers_.claim(output, i));
  }
  for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
    if (!selection_[i]) continue;
    const auto before = needed_by(i);
    for (const auto other : before) nodes_[other].users.push_back(i);
    nodes_[i].waits = before.size();
  }
}

bool Graph::add_output(std::size_t step, const std::string& path) {
  if (const auto maker = maker_of(path); maker != none) return maker == step;
  makers_.claim(learned_.emplace_back(path), step);
  return true;
}

bool Graph::add_wait(std::size_t step, std::size_t before) {
  assert(step < nodes_.size() && before < nodes_.size() && selection_[step] && selection_[before]);
  const auto known = needed_by(step);
  if (step == before || std::binary_search(known.begin(), known.end(), before)) return false;
  nodes_[before].users.push_back(step);
  ++nodes_[step].waits;
  waits_besides_[step].push_back(before);
  return true;
}

void Graph::weigh_again(const std::function<double(std::size_t)>& seconds, const std::vector<bool>& released) {
  weigh(seconds, released);
}

void Graph::weigh(const std::function<double(std::size_t)>& seconds, const std::vector<bool>& released) {
  const auto counts = [&](std::size_t i) { return selection_[i] && (released.empty() || !released[i]); };
  std::vector<std::size_t> order;
  std::vector<std::size_t> waits(nodes_.size());
  std::size_t selected = 0;
  for (std::size_t i = 0; i < nodes_.size(); ++i) {
    waits[i] = nodes_[i].waits;
    if (!counts(i)) continue;
    ++selected;
    if (waits[i] == 0) order.push_back(i);
  }
  for (std::size_t at = 0; at < order.size(); ++at) {
    for (const auto user : nodes_[order[at]].users) {
      if (--waits[user] == 0) order.push_back(user);
    }
  }
  if (order.size() < selected) tell_circle(std::move(waits));
  for (auto it = order.rbegin(); it != order.rend(); ++it) {
    double longest = 0;
    for (const auto user : nodes_[*it].users) longest = std::max(longest, nodes_[user].weight);
    nodes_[*it].weight = longest + seconds(*it);
  }
}

// Of the steps that wait for ever, most only need one of the circle: going from one to one that it waits for comes upon
// the circle itself.
void Graph::tell_circle(std::vector<std::size_t> waits) const {
  std::size_t at = 0;
  while (!selection_[at] || waits[at] == 0) ++at;
  std::vector<std::size_t> way;
  while (std::find(way.begin(), way.end(), at) == way.end()) {
    way.push_back(at);
    for (const auto before : needed_by(at)) {
      if (waits[before] > 0) at = before;
    }
  }
  way.erase(way.begin(), std::find(way.begin(), way.end(), at));
  std::string told;
  constexpr std::size_t most = 8;
  for (std::size_t i = 0; i < way.size() && i < most; ++i)
    told += (i > 0 ? " needs " : "") + text::printable_line(plan_.steps[way[i]].subject);
  told += way.size() > most ? " needs ... needs " : " needs ";
  told += text::printable_line(plan_.steps[way.front()].subject);
  throw Fault({Exit::description,
               plan_.steps[way.front()].place,
               "steps need each other in a circle",
               told,
               "look at what the rules or targets of these depend on",
               {}});
}

}  // namespace coctilis::engine
