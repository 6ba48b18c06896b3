// Carries usage requirements over the graph of targets: what a target is compiled with, and what it is linked with, in
// which order.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "model/project.h"
#include "plan/artifacts.h"
#include "plan/expression.h"

namespace coctilis::plan {

// Everything that compilations of one language of a target get.
struct CompileUsage {
  std::vector<std::string> include_folders;
  std::vector<std::string> system_include_folders;
  std::vector<std::string> definitions;
  std::vector<std::string> options;
  std::vector<std::string> features;
  std::vector<std::string> sources;  // handed on by what it uses
};

// Everything that linking a target takes.
struct LinkUsage {
  std::vector<std::string> items;  // words of the command, in order: files, -lNAME, options
  std::vector<std::string> folders;
  std::vector<std::string> options;
  std::vector<const model::Target*> targets;        // of the tree, whose files are linked; each once, in link order
  std::vector<const model::Target*> object_sets;    // whose objects are linked in directly
  std::vector<const model::Target*> shared_behind;  // shared libraries that only other shared libraries need
};

class Usage {
 public:
  Usage(const model::Project& project, const Artifacts& artifacts, const Expressions& expressions)
      : project_(project), artifacts_(artifacts), expressions_(expressions) {}

  [[nodiscard]] CompileUsage compile(const model::Target& target, const std::string& language) const;
  [[nodiscard]] LinkUsage link(const model::Target& target, const std::string& language) const;
  // All targets that `target` uses for compiling, directly or not, nearest first.
  [[nodiscard]] std::vector<const model::Target*> used(const model::Target& target, const std::string& language) const;
  // The gathered value of a transitive property for expressions; false when `property` is not one.
  bool gathered(const model::Target& target, const std::string& property, std::string& out) const;

 private:
  void collect(const model::Target& head, const model::Values& items, const std::string& language,
               std::vector<const model::Target*>& out) const;
  [[nodiscard]] ExpressionContext context(const model::Target& head, const std::string& language, bool linking) const;
  const model::Project& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  mutable std::map<std::pair<const model::Target*, std::string>, std::vector<const model::Target*>> used_;
};

}  // namespace coctilis::plan
