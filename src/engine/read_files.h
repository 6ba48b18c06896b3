// What a step has read, found out when it has ended: from what its compiler wrote down, or from having been watched.
#pragma once

#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "engine/contents.h"
#include "engine/graph.h"
#include "engine/journal.h"
#include "engine/learned.h"
#include "engine/lookups.h"
#include "engine/runner.h"
#include "model/plan.h"

namespace coctilis::engine {

class ReadFiles {
 public:
  ReadFiles(const model::Plan& plan, Journal& journal, Contents& contents, Lookups& lookups, const Graph& graph,
            const Learned& learned)
      : plan_(plan), journal_(journal), contents_(contents), lookups_(lookups), graph_(graph), learned_(learned) {}

  // How to find out what a step reads; one whose compiler told nothing the last time is watched.
  [[nodiscard]] model::Reads how(std::size_t step, PathId key) const;
  // The record of a step that has ended well, but for its command and outputs. `finished`: steps that are done.
  [[nodiscard]] StepRecord record(Running& running, const Runner& runner, const std::vector<bool>& finished);

 private:
  void add_watched(const Running& running, const std::vector<bool>& finished, std::set<ContentId>& inputs);
  // True for what the step is said to make, or was learned to make.
  [[nodiscard]] bool is_output(std::size_t step, const std::string& path) const;
  [[nodiscard]] bool has_a_say(const std::string& path) const;
  // Takes what a step wrote besides what it is said to make among its results, unless it is another step's.
  void add_written(const Running& running, StepRecord& record);
  void give_up(PathId path, PathId key, std::uint64_t maker);
  // The files that a step reads by its declaration.
  [[nodiscard]] std::vector<ContentId> declared(const Running& running);

  const model::Plan& plan_;
  Journal& journal_;
  Contents& contents_;
  Lookups& lookups_;
  const Graph& graph_;
  const Learned& learned_;
  // Steps that write a file, by what the journal knows.
  struct Writer {
    PathId key;
    std::uint64_t maker;
  };
  std::unordered_map<PathId, std::vector<Writer>> writers_;
  bool writers_known_ = false;
};

}  // namespace coctilis::engine
