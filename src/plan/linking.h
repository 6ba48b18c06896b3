// The steps that make archives, libraries and programs of objects.
#pragma once

#include <string>
#include <vector>

#include "plan/languages/language.h"

namespace coctilis::plan {

class Linking {
 public:
  explicit Linking(Planning& planning) : planning_(planning) {}

  // The step that makes what `unit` results in, of `objects` (absolute, in order). Fills what `planned` says of the
  // result. Throws Fault (Exit::description) when there are no objects.
  [[nodiscard]] model::Step step(const model::Unit& unit, const std::vector<std::string>& objects,
                                 model::PlannedTarget& planned) const;

 private:
  struct Line;
  [[nodiscard]] Line line_of(const model::Unit& unit) const;
  void archive(const model::Unit& unit, const std::vector<std::string>& objects, model::Step& step) const;
  void link(const model::Unit& unit, const std::vector<std::string>& objects, const Line& line,
            model::PlannedTarget& planned, model::Step& step) const;
  [[nodiscard]] std::vector<std::string> run_path(const model::Unit& unit, const Line& line) const;

  Planning& planning_;
};

// Works out where installed programs and libraries look for those that they need: as the description says, else the
// folders in which the tree's own shared libraries are installed, from where they lie themselves. The targets of the
// plan must be complete.
void finish_install_run_paths(const model::Build& build, model::Plan& plan);

}  // namespace coctilis::plan
