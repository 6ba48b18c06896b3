// Rules and custom targets: commands of the description as steps, and the order between targets.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "model/plan.h"
#include "model/project.h"
#include "plan/artifacts.h"
#include "plan/expression.h"

namespace coctilis::plan {

class Rules {
 public:
  Rules(const model::Project& project, const Artifacts& artifacts, const Expressions& expressions, model::Plan& plan);

  // A step for every rule.
  void add_rules();
  // A custom target: its commands, and a stamp that stands for it.
  void add_custom_target(const model::Target& target, model::PlannedTarget& planned);
  // The commands of `rule`, appended to `step` with the inputs that they name.
  void add_actions(const model::Rule& rule, model::Step& step) const;
  // Steps whose commands cannot be followed, and why: what nobody asks for must not stop the rest.
  [[nodiscard]] const std::vector<std::pair<std::size_t, Problem>>& refused() const { return refused_; }
  // True when a rule makes the file.
  [[nodiscard]] bool makes(const std::string& path) const { return outputs_.contains(path); }
  // Notes what a target's compilations wait for; `steps` are its compilations.
  void set_generated(const model::Target& target, std::vector<std::string> generated, std::vector<std::size_t> steps);
  // With all targets planned: lets compilations wait for generated files and for the targets they depend on.
  void connect_targets();

 private:
  // The same for the step that comes next in the plan; asked for, one that cannot be followed fails with the reason.
  void add_actions_or_refuse(const model::Rule& rule, model::Step& step);
  // One command, its words worked out; `named` are targets that its words name.
  void add_action(const model::Rule& rule, std::vector<std::string> argv, std::vector<std::string> named,
                  const ExpressionContext& context, model::Step& step) const;
  struct Known {
    std::vector<std::string> generated;
    std::vector<std::size_t> compilations;
    bool done = false;
    std::vector<std::string> waits;  // for all that use it
  };
  [[nodiscard]] std::string file_of(const std::string& word, const model::Rule& rule) const;
  [[nodiscard]] std::string stamp(const model::Target& target) const;
  const std::vector<std::string>& waits_of(const model::Target& target, int depth);
  const model::Project& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  model::Plan& plan_;
  std::set<std::string> outputs_;
  std::vector<std::pair<std::size_t, Problem>> refused_;
  std::map<const model::Target*, Known> known_;
};

}  // namespace coctilis::plan
