// Failures that have to do with modules of a language: one that is not found, or that cannot be put in order.
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"
#include "doctor/case.h"

namespace coctilis::doctor {

namespace {

// The step whose source defines a module, by what looking into sources found; nullptr when none does.
const model::Step* definer_of(const model::Plan& plan, const std::string& module) {
  for (const auto& step : plan.steps) {
    if (step.kind != model::StepKind::scan || step.teaches || step.outputs.empty()) continue;
    const auto found = nlohmann::json::parse(files::read(step.outputs.front()).value_or(""), nullptr, false);
    if (!found.is_object() || !found.contains("defines") || !found["defines"].is_array()) continue;
    for (const auto& name : found["defines"]) {
      if (name == module) return &step;
    }
  }
  return nullptr;
}

}  // namespace

Explanation missing_module(const Case& c) {
  const std::string module = text::lower(c.first);
  if (const auto* definer = definer_of(c.plan, module); definer != nullptr && definer->target != c.step.target)
    return {"missing module",
            "the module '" + module + "' is defined by " + definer->subject + " of '" + definer->target + "', which '" +
                c.step.target + "' does not use",
            "let '" + c.step.target + "' link '" + definer->target + "'"};
  return {"missing module", "no source that is built here defines the module '" + module + "'",
          "add the source that does to '" + c.step.target +
              "'; modules of an installed library are found in its include folders"};
}

Explanation modules_in_circle(const Case&) {
  return {"modules in a circle", "each of these modules has to be compiled before the other",
          "move what both of them need into a module of its own"};
}

Explanation module_defined_twice(const Case& c) {
  return {"module defined twice", "two sources define the module '" + c.first + "', and only one can be meant",
          "leave one of the two out of '" + c.step.target + "', or give one module another name"};
}

Explanation made_by_two(const Case&) {
  return {"made by two steps", "which of the two comes last would decide what is there",
          "give each of the two targets a folder of its own for its modules"};
}

}  // namespace coctilis::doctor
