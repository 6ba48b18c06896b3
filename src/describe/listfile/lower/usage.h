// Carries usage requirements over the graph of targets: what a target is compiled with, and what it is linked with.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/artifacts.h"
#include "describe/listfile/lower/expression.h"

namespace coctilis::describe::listfile::lower {

// Everything that compilations of one language of a target get.
struct CompileUsage {
  std::vector<std::string> include_folders;
  std::vector<std::string> system_include_folders;
  std::vector<std::string> definitions;
  std::vector<std::string> options;
  std::vector<std::string> first_headers;
  std::vector<std::string> features;
  std::vector<std::string> sources;  // handed on by what it uses
};

class Usage {
 public:
  Usage(const Declared& project, const Artifacts& artifacts, const Expressions& expressions)
      : project_(project), artifacts_(artifacts), expressions_(expressions) {}

  [[nodiscard]] CompileUsage compile(const Target& target, const std::string& language) const;
  // What `target` links, with everything that needs in turn. `language`: whose compiler links. The fields that come
  // from properties of the target itself are left as they are.
  [[nodiscard]] model::LinkSettings link(const Target& target, const std::string& language) const;
  // The targets that it needs to be linked, for itself or for its users, and those that are to be made before it.
  [[nodiscard]] std::vector<model::Use> uses(const Target& target) const;
  // All targets that `target` uses for compiling, directly or not, nearest first.
  [[nodiscard]] std::vector<const Target*> used(const Target& target, const std::string& language) const;
  // The gathered value of a transitive property for expressions; false when `property` is not one.
  bool gathered(const Target& target, const std::string& property, std::string& out) const;

 private:
  void collect(const Target& head, const Values& items, const std::string& language,
               std::vector<const Target*>& out) const;
  [[nodiscard]] ExpressionContext context(const Target& head, const std::string& language, bool linking) const;
  const Declared& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  mutable std::map<std::pair<const Target*, std::string>, std::vector<const Target*>> used_;
};

}  // namespace coctilis::describe::listfile::lower
