// Names and places of what targets make.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "model/plan.h"
#include "model/project.h"

namespace coctilis::plan {

struct Artifact {
  std::string file;                // absolute; empty when the target makes none
  std::string linker_file;         // what others link: the plain name of a shared library, else the file
  std::string shared_name;         // the name programs look for when they start ("libkiln.so.2"); empty: none
  std::vector<std::string> names;  // links beside the file, absolute, each to be made
};

class Artifacts {
 public:
  // Works out all names. Two targets that would make the same file are kept apart; `notes` says so.
  Artifacts(const model::Project& project, std::vector<std::string>& notes);
  [[nodiscard]] const Artifact& of(const model::Target& target) const;
  // The target that makes an absolute path, or nullptr.
  [[nodiscard]] const model::Target* maker(const std::string& path) const;

 private:
  Artifact work_out(const model::Target& target) const;
  Artifact imported(const model::Target& target) const;
  const model::Project& project_;
  std::map<const model::Target*, Artifact> artifacts_;
  std::map<std::string, const model::Target*> makers_;
};

// A property's text, elements joined with ';'; "" when it is not set.
[[nodiscard]] std::string property_text(const model::Target& target, const std::string& name);
[[nodiscard]] bool property_on(const model::Target& target, const std::string& name);

}  // namespace coctilis::plan
