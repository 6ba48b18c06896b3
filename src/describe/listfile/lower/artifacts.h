// Names and places of what targets make.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/expression.h"
#include "model/build.h"

namespace coctilis::describe::listfile::lower {

using Artifact = model::UnitResult;

class Artifacts {
 public:
  // Works out all names. Two targets that would make the same file are kept apart; `notes` says so. Throws Fault for
  // expressions in names that are not understood or hang on names themselves.
  Artifacts(const Declared& project, const model::Toolchain& toolchain, std::vector<std::string>& notes);
  [[nodiscard]] const Artifact& of(const Target& target) const;
  // The target that makes an absolute path, or nullptr.
  [[nodiscard]] const Target* maker(const std::string& path) const;

 private:
  Artifact work_out(const Target& target) const;
  // The first of the properties that says something.
  [[nodiscard]] std::string first_of(const Target& target, const std::vector<std::string>& names) const;
  [[nodiscard]] std::string text_of(const Target& target, const std::string& property) const;
  Artifact imported(const Target& target) const;
  const Declared& project_;
  Expressions expressions_;  // in names of results
  std::map<const Target*, Artifact> artifacts_;
  std::map<std::string, const Target*> makers_;
};

// A property's text, elements joined with ';'; "" when it is not set.
[[nodiscard]] std::string property_text(const Target& target, const std::string& name);
[[nodiscard]] bool property_on(const Target& target, const std::string& name);

}  // namespace coctilis::describe::listfile::lower
