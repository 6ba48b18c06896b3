// A language that coctilis.toml tells of: its commands are known, and all else is seen.
#include "base/files.h"
#include "plan/languages/whole.h"

namespace coctilis::plan {

std::vector<model::Step> told_steps(Planning& planning, const model::Unit& unit) {
  std::vector<model::Step> out;
  const auto& rules = unit.whole->rules;
  for (const auto& rule : rules) {
    // What one command makes is compiled.
    const bool last = rules.size() > 1 && &rule == &rules.back();
    const std::string& made = rule.outputs.front();
    model::Step step = whole_step(unit, last ? model::StepKind::link : model::StepKind::compile,
                                  files::below(files::below(last || rule.inputs.empty() ? made : rule.inputs.front(),
                                                            planning.project.binary_root),
                                               planning.project.tree));
    if (rules.size() == 1) step.subject = files::below(made, planning.project.binary_root);
    if (last && unit.kind == model::TargetKind::static_library) step.kind = model::StepKind::archive;
    if (!rule.place.file.empty()) step.place = rule.place;
    if (!last && !rule.inputs.empty()) step.source = rule.inputs.front();
    step.outputs = rule.outputs;
    step.byproducts = rule.byproducts;
    if (!rule.output_folder.empty()) step.output_folders = {rule.output_folder};
    step.inputs = rule.inputs;
    step.after = rule.after;
    step.actions = rule.actions;
    step.dependency_file = rule.dependency_file;
    step.reads = rule.dependency_file.empty() ? model::Reads::watched : model::Reads::told;
    for (const auto& action : rule.actions) {
      if (action.how == model::Action::How::process && action.argv.front().starts_with('/'))
        step.tools.push_back(action.argv.front());
    }
    out.push_back(std::move(step));
  }
  return out;
}

}  // namespace coctilis::plan
