// What headers cost: the time of the compilations that ran, shared out among the files that they read.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

#include "engine/journal.h"
#include "model/outcome.h"
#include "model/plan.h"

namespace coctilis::engine {

class HeaderCosts {
 public:
  explicit HeaderCosts(const Journal& journal) : journal_(journal) {}

  // Takes in a step that has ended well. Of one that is no compilation in the family of C there is nothing to learn.
  void add(const model::Step& step, const StepRecord& record, double seconds);
  // The dearest files, at most `most_headers`, dearest first.
  [[nodiscard]] std::vector<model::HeaderCost> dearest() const;

  static constexpr std::size_t most_headers = 200;

 private:
  struct Cost {
    std::size_t sources = 0;
    double seconds = 0;
    std::size_t told = 0;
  };

  const Journal& journal_;
  std::unordered_map<PathId, Cost> costs_;
};

// Seconds that each file took by itself, without those that it includes, in the form of the trace events that clang
// writes ("-ftime-trace", "Clang Compiler User's Manual"): events named "Source", whose detail is the file, one within
// the other by their times. Nothing of a text that is none.
[[nodiscard]] std::optional<std::map<std::string, double>> times_of_headers(std::string_view report);

}  // namespace coctilis::engine
