// What targets that are made of sources alone come to as facts: units, rules for what is generated, what is installed.
#pragma once

#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "describe/sources/generated.h"
#include "describe/sources/tree.h"
#include "model/project.h"
#include "model/settings.h"

namespace coctilis::describe::sources {

// What stands beside the targets.
struct Workplace {
  std::string tree;                     // absolute
  std::string work;                     // absolute: the folder for results
  std::vector<Grammar> grammars;        // sources that are generated
  std::vector<std::string> generators;  // absolute, of each grammar
  std::vector<Maker> makers;            // programs that write what sources include
  // Sources that were made of templates: the template, relative -> the source, absolute.
  std::map<std::string, std::string> filled_sources;
  std::set<std::string> generated_folders;  // absolute: folders with generated headers
  std::vector<std::string> public_headers;  // relative: what libraries install
  std::vector<std::string> notes;           // what was made of what, in words
  model::Variant variant;                   // that is built
  // Targets in languages that coctilis.toml tells of, which are made elsewhere and may be used.
  std::vector<model::SourceTarget> told;
};

// Where what is generated of a file in a folder of the tree goes; absolute.
[[nodiscard]] std::string generated_folder(const std::string& work, const std::string& folder);

// Folders with generated headers, those nearest to the folder `near` of the tree first.
[[nodiscard]] std::vector<std::string> folders_by_distance(const std::set<std::string>& folders,
                                                           const std::string& work, const std::string& near);

// The facts. Throws Fault (Exit::usage) with the place of a target that uses one that is not there, or has a source
// that is not there or that no compiler takes.
[[nodiscard]] model::Build build_of(const std::vector<model::SourceTarget>& targets, const Workplace& place);
[[nodiscard]] std::shared_ptr<const model::Facts> facts_of(const std::vector<model::SourceTarget>& targets,
                                                           const Workplace& place);

// The targets as coctilis.toml has them: read again, they come to the same facts.
[[nodiscard]] std::string as_settings(const std::vector<model::SourceTarget>& targets);

}  // namespace coctilis::describe::sources
