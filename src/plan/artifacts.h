// Names and places of what targets make.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "model/plan.h"
#include "model/project.h"
#include "plan/expression.h"

namespace coctilis::plan {

struct Artifact {
  std::string file;                // absolute; empty when the target makes none
  std::string linker_file;         // what others link: the plain name of a shared library, else the file
  std::string shared_name;         // the name programs look for when they start ("libkiln.so.2"); empty: none
  std::vector<std::string> names;  // links beside the file, absolute, each to be made
};

class Artifacts {
 public:
  // Works out all names. Two targets that would make the same file are kept apart; `notes` says so. Throws Fault for
  // expressions in names that are not understood or hang on names themselves.
  Artifacts(const model::Project& project, const model::Toolchain& toolchain, std::vector<std::string>& notes);
  [[nodiscard]] const Artifact& of(const model::Target& target) const;
  // The target that makes an absolute path, or nullptr.
  [[nodiscard]] const model::Target* maker(const std::string& path) const;

 private:
  Artifact work_out(const model::Target& target) const;
  // The first of the properties that says something.
  [[nodiscard]] std::string first_of(const model::Target& target, const std::vector<std::string>& names) const;
  [[nodiscard]] std::string text_of(const model::Target& target, const std::string& property) const;
  Artifact imported(const model::Target& target) const;
  const model::Project& project_;
  Expressions expressions_;  // in names of results
  std::map<const model::Target*, Artifact> artifacts_;
  std::map<std::string, const model::Target*> makers_;
};

// A property's text, elements joined with ';'; "" when it is not set.
[[nodiscard]] std::string property_text(const model::Target& target, const std::string& name);
[[nodiscard]] bool property_on(const model::Target& target, const std::string& name);

}  // namespace coctilis::plan
