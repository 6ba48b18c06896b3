#include "plan/planner.h"

#include <cassert>
#include <set>
#include <unordered_map>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "plan/finishing.h"
#include "plan/host_tools.h"
#include "plan/languages/language.h"
#include "plan/linking.h"
#include "plan/recipes.h"

namespace coctilis::plan {

using model::Step;
using model::StepKind;
using model::TargetKind;
using model::Unit;

namespace {

model::Variant variant_of(const model::Settings& settings) {
  const auto it = settings.variants.find(settings.variant);
  return it == settings.variants.end() ? model::Variant{} : it->second;
}

// Walks the units of a build and makes steps of them.
class Planner {
 public:
  Planner(const model::Project& project, const model::Toolchain& toolchain, const model::Settings& settings,
          const std::string& kiln)
      : project_(project),
        build_(project.facts->build_with(toolchain)),
        variant_(variant_of(settings)),
        planning_{project, build_, toolchain, settings, variant_, plan_, {}, {}},
        linking_(planning_) {
    plan_.tree = project.tree;
    plan_.kiln = kiln;
    plan_.work = project.binary_root;
    auto confinement = confinement_of(project.tree, kiln);
    plan_.writable = std::move(confinement.writable);
    plan_.environment = std::move(confinement.environment);
    plan_.prefixes = settings.wished_prefixes();
    plan_.notes = build_.notes;
    for (const auto& unit : build_.units) {
      const auto [it, fresh] = planning_.units.emplace(unit.name, &unit);
      // Everything refers to targets by their names: of two with one name, one would be left out in silence.
      if (!fresh && !unit.external && !it->second->external) {
        throw Fault({Exit::description,
                     unit.place,
                     "two targets are called '" + text::printable_line(unit.name) + "'",
                     it->second->place.file.empty() ? "" : "the other is of " + it->second->place.text(),
                     "give one of them another name",
                     {}});
      }
    }
  }

  // Steps whose commands cannot be followed, and why: what nobody asks for must not stop the rest.
  [[nodiscard]] const auto& refused() const { return refused_; }

  model::Plan run() {
    for (const auto& rule : build_.rules) add_rule(rule);
    for (const auto& unit : build_.units) {
      if (!unit.external) add_unit(unit);
    }
    connect_units();
    plan_.tests = std::move(build_.tests);
    plan_.files.insert(plan_.files.end(), build_.files.begin(), build_.files.end());
    plan_.install = std::move(build_.install);
    plan_.not_installed = std::move(build_.not_installed);
    finish_install_run_paths(build_, plan_);
    show_targets(plan_);
    return std::move(plan_);
  }

 private:
  // ---- rules -------------------------------------------------------------------------------------------------------
  Step step_of(const model::Rule& rule) {
    Step step;
    step.place = rule.place;
    step.outputs = rule.outputs;
    step.byproducts = rule.byproducts;
    step.inputs = rule.inputs;
    step.after = rule.after;
    step.actions = rule.actions;
    step.by_time = rule.by_time;
    step.dependency_file = rule.dependency_file;
    if (step.dependency_file.empty()) step.reads = model::Reads::watched;
    if (rule.refused) {
      refused_.emplace_back(plan_.steps.size(), *rule.refused);
      step.actions.push_back({model::Action::How::builtin,
                              {"refuse", rule.refused->place.text() + ": " + rule.refused->what},
                              project_.binary_root,
                              {}});
    }
    return step;
  }

  void add_rule(const model::Rule& rule) {
    assert(!rule.outputs.empty());
    Step step = step_of(rule);
    step.kind = StepKind::generate;
    step.subject = files::below(step.outputs.front(), project_.binary_root);
    plan_.steps.push_back(std::move(step));
  }

  void add_command_unit(const Unit& unit, model::PlannedTarget& planned) {
    Step step = step_of(*unit.command);
    step.kind = StepKind::custom;
    step.target = unit.name;
    step.subject = unit.name;
    // Its commands run whenever it is asked for; without any it only stands for what it needs.
    step.always = !step.actions.empty();
    step.actions.push_back({model::Action::How::builtin, {"touch", step.outputs.front()}, unit.work_folder, {}});
    planned.steps.push_back(plan_.steps.size());
    plan_.steps.push_back(std::move(step));
  }

  // ---- units -------------------------------------------------------------------------------------------------------
  void add_unit(const Unit& unit) {
    model::PlannedTarget planned;
    planned.name = unit.name;
    planned.kind = unit.kind;
    planned.place = unit.place;
    planned.installed = unit.installed;
    planned.in_default = unit.in_default;
    planned.why = unit.why;
    if (unit.command) {
      add_command_unit(unit, planned);
    } else if (unit.whole) {
      const bool told = !unit.whole->rules.empty();
      for (auto& step : told ? told_steps(planning_, unit)
                             : language_of(unit.parts.front().language, unit.place).whole(planning_, unit))
        add_step(std::move(step), planned);
      if (unit.kind != TargetKind::object_set) planned.output = unit.result.file;
      planned.sources = unit.sources.size();
      planned.uses = unit.whole->units;
      planned.link_items = unit.whole->libraries;
      planned.is_started_by_runtime = !unit.whole->entry.empty();
    } else if (unit.kind != TargetKind::interface_library) {
      auto objects = add_compilations(unit, planned);
      compilations_[&unit] = planned.steps;
      if (unit.kind != TargetKind::object_set) add_link(unit, std::move(objects), planned);
    }
    plan_.targets.push_back(std::move(planned));
  }

  void add_step(Step step, model::PlannedTarget& planned) {
    assert(!step.outputs.empty() && step.outputs.front().starts_with('/'));
    planned.steps.push_back(plan_.steps.size());
    plan_.steps.push_back(std::move(step));
  }

  // The steps of a unit's sources; gives their objects in order.
  std::vector<std::string> add_compilations(const Unit& unit, model::PlannedTarget& planned) {
    const std::vector<std::string> objects = objects_of(unit);
    std::vector<std::unique_ptr<PartSteps>> parts(unit.parts.size());
    for (std::size_t i = 0; i < unit.sources.size(); ++i) {
      const auto& source = unit.sources[i];
      if (source.part == model::UnitSource::ready) continue;
      ++planned.sources;
      assert(source.part < unit.parts.size());
      const auto& part = unit.parts[source.part];
      auto& steps = parts[source.part];
      if (!steps) {
        const auto same = std::count_if(unit.sources.begin(), unit.sources.end(),
                                        [&](const auto& other) { return other.part == source.part; });
        const auto& language = language_of(part.language, source.place);
        steps = language.steps(planning_, unit, part, static_cast<std::size_t>(same));
        for (auto& step : steps->first()) add_step(std::move(step), planned);
      }
      show_settings(part, *steps, planned);
      for (auto& step : steps->of(source, objects[i])) add_step(std::move(step), planned);
    }
    for (const auto& steps : parts) {
      if (!steps) continue;
      for (auto& step : steps->last()) add_step(std::move(step), planned);
    }
    return objects;
  }

  // The objects of a unit's sources, in order; those that are there already among them.
  [[nodiscard]] std::vector<std::string> objects_of(const Unit& unit) const {
    std::vector<std::string> compiled;
    for (const auto& source : unit.sources) {
      if (source.part != model::UnitSource::ready) compiled.push_back(source.path);
    }
    auto made = model::object_paths(project_, unit.name, unit.folder, unit.work_folder, compiled);
    std::vector<std::string> out;
    std::size_t next = 0;
    for (const auto& source : unit.sources)
      out.push_back(source.part == model::UnitSource::ready ? source.path : std::move(made[next++]));
    return out;
  }

  // What people are shown of a unit: the settings of the first language that has any.
  static void show_settings(const model::Part& part, const PartSteps& steps, model::PlannedTarget& planned) {
    if (!planned.include_folders.empty() || !planned.definitions.empty() || !planned.compile_options.empty()) return;
    planned.system_include_folders.clear();
    for (const auto& folder : part.settings.include_folders) {
      if (folder.kind == model::IncludeFolder::Kind::plain) planned.include_folders.push_back(folder.path);
      if (folder.kind == model::IncludeFolder::Kind::system) planned.system_include_folders.push_back(folder.path);
    }
    planned.definitions = part.settings.definitions;
    planned.compile_options = steps.shown_options();
  }

  void add_link(const Unit& unit, std::vector<std::string> objects, model::PlannedTarget& planned) {
    for (const auto& name : unit.link.object_sets) {
      for (auto& object : objects_of(*planning_.units.at(name))) objects.push_back(std::move(object));
    }
    add_step(linking_.step(unit, objects, planned), planned);
  }

  // ---- order between units -----------------------------------------------------------------------------------------
  struct Waits {
    bool done = false;
    std::vector<std::string> files;
  };

  // What must be there before something that uses `unit` can be compiled: the files that rules make for it, and the
  // same of what it uses. Its own result is not waited for.
  const std::vector<std::string>& waits_of(const Unit& unit, int depth) {
    auto& known = waits_[&unit];
    if (known.done || depth > 500) return known.files;
    known.done = true;
    std::set<std::string> all(unit.generated.begin(), unit.generated.end());
    for (const auto& use : unit.uses) {
      const auto it = planning_.units.find(use.unit);
      if (it == planning_.units.end()) continue;
      const Unit& other = *it->second;
      if (use.how == model::Use::How::link) {
        const auto& inner = waits_of(other, depth + 1);
        all.insert(inner.begin(), inner.end());
      } else if (other.command) {
        all.insert(other.command->outputs.front());
      } else if (!other.result.file.empty()) {
        all.insert(other.result.file);
      }
    }
    auto& again = waits_[&unit];
    again.files.assign(all.begin(), all.end());
    return again.files;
  }

  void connect_units() {
    std::unordered_map<std::string_view, std::vector<std::size_t>> steps_of;
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) steps_of[plan_.steps[i].target].push_back(i);
    for (const auto& unit : build_.units) {
      if (unit.external || unit.command) continue;
      const auto waits = waits_of(unit, 0);
      const auto it = compilations_.find(&unit);
      // A unit without compilations of its own still waits with its last step.
      const bool none = it == compilations_.end() || it->second.empty();
      for (const auto index : none ? steps_of[unit.name] : it->second) {
        auto& after = plan_.steps[index].after;
        after.insert(after.end(), waits.begin(), waits.end());
      }
    }
  }

  const model::Project& project_;
  model::Build build_;
  model::Variant variant_;
  model::Plan plan_;
  Planning planning_;
  Linking linking_;
  std::unordered_map<const Unit*, std::vector<std::size_t>> compilations_;
  std::unordered_map<const Unit*, Waits> waits_;
  std::vector<std::pair<std::size_t, Problem>> refused_;
};

}  // namespace

namespace {
void mark_default(model::Plan& plan) {
  std::vector<std::string> names;
  for (const auto& target : plan.targets) {
    if (target.in_default) names.push_back(target.name);
  }
  for (auto& step : plan.steps) step.in_default = false;
  if (names.empty()) return;
  const auto selected = select_steps(plan, names);
  if (!selected) throw Fault(selected.problem());
  for (std::size_t i = 0; i < plan.steps.size(); ++i) plan.steps[i].in_default = (*selected)[i];
}
}  // namespace

namespace {
model::Plan plan_of_recipes(const model::Project& project, const model::Toolchain& toolchain,
                            const model::Settings& settings, const std::string& kiln) {
  model::Plan plan;
  plan.tree = project.tree;
  plan.kiln = kiln;
  plan.work = project.binary_root;
  plan.writable = confinement_of(plan.work, kiln).writable;  // recipes know the copy of the tree only
  plan.prefixes = settings.wished_prefixes();
  place_recipes(plan, project.tree, toolchain, settings);
  add_recipes(project.recipes, project.binary_root, plan);
  plan.tests = project.recipe_tests;
  show_targets(plan);
  add_finishing(plan, settings, toolchain, true);
  return plan;
}
}  // namespace

Result<model::Plan> make_plan(const model::Project& project, const model::Toolchain& toolchain,
                              const model::Settings& settings, const std::string& kiln, const model::Toolchain* host) {
  return guarded("planning", [&] {
    if (project.by_recipes) return plan_of_recipes(project, toolchain, settings, kiln);
    Planner planner(project, toolchain, settings, kiln);
    auto plan = planner.run();
    add_finishing(plan, settings, toolchain, false);
    if (toolchain.foreign && host != nullptr && runs_own_programs(plan))
      use_host_tools(plan, Planner(project, *host, settings, kiln).run(), *host);
    mark_default(plan);
    for (const auto& [index, problem] : planner.refused()) {
      if (plan.steps[index].in_default) throw Fault(problem);
    }
    return plan;
  });
}

}  // namespace coctilis::plan
