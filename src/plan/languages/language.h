// What the plan knows of a language: one file a language in this folder, and its line in the table of languages.cpp.
#pragma once

#include <memory>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "model/plan.h"
#include "model/project.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::plan {

// What steps are planned from, the same for every unit. All must outlive whoever holds it.
struct Planning {
  const model::Project& project;
  const model::Build& build;
  const model::Toolchain& toolchain;
  const model::Settings& settings;
  const model::Variant& variant;
  model::Plan& plan;
  std::unordered_map<std::string, const model::Unit*> units;  // of the build, by name
  std::set<std::string> told;                                 // notes that are told once
};

// Tells a user of a decision, once.
void note_once(Planning& planning, const std::string& text);

// The sources of one language of one unit on their way to steps.
class PartSteps {
 public:
  virtual ~PartSteps() = default;
  // Steps that come before those of the sources.
  virtual std::vector<model::Step> first() { return {}; }
  // The steps that make `object` (absolute) of a source.
  virtual std::vector<model::Step> of(const model::UnitSource& source, const std::string& object) = 0;
  // Steps that come behind those of all sources.
  virtual std::vector<model::Step> last() { return {}; }
  // The options that people are shown for the unit.
  [[nodiscard]] virtual std::vector<std::string> shown_options() const = 0;
};

struct Language {
  const char* name;
  // `sources`: how many the part has. May throw Fault (Exit::missing) when the tool chain has no compiler for it.
  std::unique_ptr<PartSteps> (*steps)(Planning& planning, const model::Unit& unit, const model::Part& part,
                                      std::size_t sources);
  // Words that end the link of a program with objects of this language when another one's compiler links.
  std::vector<std::string> (*link_words)(const model::Toolchain& toolchain);
  // Its compiler knows -fdiagnostics-color.
  bool has_colours = false;
  // All steps of a unit that is compiled whole, in order; the last makes its result. Then `steps` is null.
  std::vector<model::Step> (*whole)(Planning& planning, const model::Unit& unit) = nullptr;
};

// Whether steps of a language may be given -fdiagnostics-color. Links that are of no language in particular may.
[[nodiscard]] bool has_colours(const std::string& language);

// The language of that name. Throws Fault (Exit::description): sources of it cannot be compiled.
[[nodiscard]] const Language& language_of(const std::string& name, const Place& place);

// ---- shared by the languages ----------------------------------------------------------------------------------------

// A compile step with everything but its actions.
[[nodiscard]] model::Step step_for(const Planning& planning, const model::Unit& unit, const model::Part& part,
                                   const model::UnitSource& source, const std::string& object);

// ---- the languages --------------------------------------------------------------------------------------------------
[[nodiscard]] std::unique_ptr<PartSteps> c_family_steps(Planning& planning, const model::Unit& unit,
                                                        const model::Part& part, std::size_t sources);
[[nodiscard]] std::unique_ptr<PartSteps> plain_assembler_steps(Planning& planning, const model::Unit& unit,
                                                               const model::Part& part, std::size_t sources);
[[nodiscard]] std::unique_ptr<PartSteps> fortran_steps(Planning& planning, const model::Unit& unit,
                                                       const model::Part& part, std::size_t sources);
[[nodiscard]] std::vector<std::string> fortran_link_words(const model::Toolchain& toolchain);
[[nodiscard]] std::vector<model::Step> java_steps(Planning& planning, const model::Unit& unit);
[[nodiscard]] std::vector<model::Step> go_steps(Planning& planning, const model::Unit& unit);
[[nodiscard]] std::vector<model::Step> csharp_steps(Planning& planning, const model::Unit& unit);
// Of any other: by the commands that it says itself.
[[nodiscard]] std::vector<model::Step> told_steps(Planning& planning, const model::Unit& unit);

}  // namespace coctilis::plan
