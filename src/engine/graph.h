// The selected steps of a plan as a graph: what waits for what, and how long the way from each to the end is.
#pragma once

#include <cstddef>
#include <deque>
#include <functional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "model/makers.h"
#include "model/plan.h"

namespace coctilis::engine {

class Graph {
 public:
  struct Node {
    std::vector<std::size_t> users;
    std::size_t waits = 0;  // selected steps that have to end before
    double weight = 0;      // seconds on the longest way to the end
  };

  // Throws Fault (Exit::description): two steps make the same file, or steps need each other in a circle. `seconds`
  // tells how long a step takes, as far as anybody knows.
  Graph(const model::Plan& plan, const std::vector<bool>& selection, const std::function<double(std::size_t)>& seconds);

  [[nodiscard]] Node& operator[](std::size_t step) { return nodes_[step]; }
  [[nodiscard]] const Node& operator[](std::size_t step) const { return nodes_[step]; }
  [[nodiscard]] std::size_t size() const { return nodes_.size(); }
  // The selected step that makes a file, or the folder that it lies in; `none` when none does.
  static constexpr std::size_t none = model::Makers::none;
  [[nodiscard]] std::size_t maker_of(std::string_view path) const { return makers_.of(path); }

  // ---- what is learned while it runs
  // A selected step also makes `path`. False when another one makes it.
  [[nodiscard]] bool add_output(std::size_t step, const std::string& path);
  // `step`, which has not begun, has to wait for `before`, which has not ended. False when it does already.
  bool add_wait(std::size_t step, std::size_t before);
  // Weighs everything anew, and throws Fault (Exit::description) when steps that have not ended need each other in a
  // circle. `released`: those whose users do not wait for them any more.
  void weigh_again(const std::function<double(std::size_t)>& seconds, const std::vector<bool>& released);

 private:
  void connect();
  void weigh(const std::function<double(std::size_t)>& seconds, const std::vector<bool>& released);
  [[noreturn]] void tell_circle(std::vector<std::size_t> waits) const;
  [[nodiscard]] std::vector<std::size_t> needed_by(std::size_t step) const;

  const model::Plan& plan_;
  const std::vector<bool>& selection_;
  std::vector<Node> nodes_;
  model::Makers makers_;  // by paths of the plan, and those of `learned_`
  std::deque<std::string> learned_;
  std::unordered_map<std::size_t, std::vector<std::size_t>> waits_besides_;  // that were learned, by step
};

}  // namespace coctilis::engine
