// What the explanations of failures are given, and what several of them look up.
#pragma once

#include <string>
#include <vector>

#include "doctor/doctor.h"
#include "locate/packages.h"

namespace coctilis::doctor {

struct Case {
  const model::Plan& plan;
  const model::Step& step;
  const model::StepResult& result;
  locate::Packages& packages;
  std::string first;  // what the pattern caught
  std::string second;

  // The folder in which its commands run.
  [[nodiscard]] const std::string& folder() const {
    return step.actions.empty() ? plan.tree : step.actions.front().folder;
  }
};

// One that has no failure's name says nothing: the pattern caught something else.
using Explanation = model::Diagnosis;

// How something is come by that a package has: the command that installs it, or why none would help. `otherwise` when
// no package is known.
[[nodiscard]] std::string how_to_install(const Case& c, const std::string& package, const std::string& otherwise);

// The step that is said to make a file of this name; nullptr when none is.
[[nodiscard]] const model::Step* maker_of(const model::Plan& plan, const std::string& name);

// doctor/files.cpp
[[nodiscard]] Explanation missing_header(const Case& c);
[[nodiscard]] Explanation unreadable_file(const Case& c);
// doctor/links.cpp
[[nodiscard]] Explanation missing_library(const Case& c);
[[nodiscard]] Explanation undefined_reference(const Case& c);
[[nodiscard]] Explanation not_on_link_line(const Case& c);
[[nodiscard]] Explanation multiple_definition(const Case& c);
[[nodiscard]] Explanation not_position_independent(const Case& c);
// doctor/modules.cpp
[[nodiscard]] Explanation missing_module(const Case& c);
[[nodiscard]] Explanation modules_in_circle(const Case& c);
[[nodiscard]] Explanation module_defined_twice(const Case& c);
[[nodiscard]] Explanation made_by_two(const Case& c);
// doctor/programs.cpp: of the program that `first` names.
[[nodiscard]] Explanation missing_command(const Case& c);
[[nodiscard]] Explanation missing_interpreter(const Case& c);
[[nodiscard]] Explanation command_without_right(const Case& c);

}  // namespace coctilis::doctor
