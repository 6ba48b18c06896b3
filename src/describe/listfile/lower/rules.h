// Rules and command targets: commands of the description as actions with what they read and make.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/artifacts.h"
#include "describe/listfile/lower/expression.h"

namespace coctilis::describe::listfile::lower {

class Rules {
 public:
  // `output_root` (absolute): the folder that the description's own operations may write to. All must outlive this.
  Rules(const Declared& project, const Artifacts& artifacts, const Expressions& expressions, std::string output_root);

  // Every rule with something to make.
  [[nodiscard]] std::vector<model::Rule> all();
  // All that a command target does, with a stamp that stands for it.
  [[nodiscard]] model::Rule of_target(const Target& target) const;
  // The commands of `rules`; `outputs` are the files of the step that they go with, absolute.
  [[nodiscard]] model::UnitCommands commands(const std::vector<std::vector<Rule>>& rules,
                                             const std::vector<std::string>& outputs) const;
  // True when a rule makes the file.
  [[nodiscard]] bool makes(const std::string& path) const { return outputs_.contains(path); }

 private:
  // The commands of `rule`, appended to `into` with the inputs that they name.
  void add_actions(const Rule& rule, model::Rule& into) const;
  // The same; for those that cannot be followed `into` keeps the reason.
  void add_actions_or_refuse(const Rule& rule, model::Rule& into) const;
  // One command, its words worked out; `named` are targets that its words name.
  void add_action(const Rule& rule, std::vector<std::string> argv, std::vector<std::string> named,
                  const ExpressionContext& context, model::Rule& into) const;
  // A call of the description's own tool that is no command of its own: a script, or an operation in a shell's line.
  // True when `action` is complete.
  bool add_call_of_tool(const Rule& rule, std::vector<std::string>& argv, bool shell, model::Action& action,
                        model::Rule& into) const;
  // Programs of the tree in place of their targets' names, and what the words name among the inputs.
  void resolve_programs(std::vector<std::string>& argv, std::vector<std::string>& named, model::Rule& into) const;
  [[nodiscard]] std::string file_of(const std::string& word, const Rule& rule) const;
  [[nodiscard]] std::string stamp(const Target& target) const;
  const Declared& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  const std::string output_root_;
  std::set<std::string> outputs_;
};

}  // namespace coctilis::describe::listfile::lower
