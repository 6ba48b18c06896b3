#include "pipeline/keeping.h"

#include <algorithm>

#include "base/files.h"
#include "base/hash.h"
#include "describe/mirror.h"
#include "describe/readers.h"
#include "engine/engine.h"
#include "engine/known_files.h"
#include "pipeline/inner_make.h"
#include "plan/planner.h"

namespace coctilis::pipeline {

namespace {

std::string path_of(const model::Run& run) { return run.kiln + "/kept"; }

// One for each description.
std::string refusal_path(const model::Run& run) {
  return run.kiln + "/refused/" + hash_bytes(run.survey.followed()->path).text();
}

// A copy of the tree would only be brought in step for one that is read.
bool cannot_follow(const std::string&, const std::string&) { return false; }

bool needs_the_reader(const model::Run& run, model::Plan& plan, const std::map<std::string, std::string>& environment) {
  if (plan.journal.empty()) return false;  // of its steps none waits
  plan.environment = environment;
  const auto selection = plan::select_steps(plan, run.options.targets);
  if (!selection) return false;  // it is told whatever plan there is
  engine::Request request;
  request.selection = *selection;
  request.given = describe::given_in(plan.work);
  request.settled = [](const model::Step& step) { return calls_are_settled(step.calls); };
  return pipeline::needs_the_reader(plan, request);
}

// Inner makes keep theirs below one folder.
void forget_inner_plans(const model::Run& run) {
  std::error_code error;
  for (const auto& name : files::names_in(run.kiln + "/make"))
    std::filesystem::remove(run.kiln + "/make/" + name + "/kept", error);
}

}  // namespace

bool needs_the_reader(const model::Plan& plan, const engine::Request& request) {
  if (std::none_of(plan.steps.begin(), plan.steps.end(), [](const auto& step) { return step.late; })) return false;
  const auto due = engine::anything_to_do(plan, request);
  return !due || *due;
}

bool Keeping::take(model::Run& run, const std::map<std::string, std::string>& environment) {
  give_up();
  taken_ = false;
  const auto* reader = describe::reader_of(run.survey.followed());
  if (reader == nullptr || !reader->keeps_plan) return false;
  key_ = record::key_of(run, environment);
  findings_ = run.findings.size();
  record::Taken taken;
  if (run.settings.rerun) {
    forget_inner_plans(run);
    taken.why_not = "--rerun was given";
  } else {
    if (auto refused = record::take(refusal_path(run), key_, cannot_follow); refused.kept && refused.kept->refused) {
      run.problem = refused.kept->refused;
      return true;
    }
    engine::KnownFiles known(run.kiln + "/journal");
    const auto made_by_step = [&](const std::string& path) { return known.is_made(path); };
    taken = record::take(path_of(run), key_, [&](const std::string& from, const std::string& to) {
      return describe::mirror(from, to, made_by_step).ok();
    });
  }
  if (taken.kept && needs_the_reader(run, taken.kept->plan, environment))
    taken = {std::nullopt, {}, "a recipe that is to be run hangs on what is there then"};
  run.plan_why = taken.why_not;
  if (!taken.kept) {
    observed_ = std::make_unique<Observed>();
    observation_ = std::make_unique<Observation>(*observed_);
    return false;
  }
  auto& kept = *taken.kept;
  run.project = std::move(kept.project);
  run.findings.insert(run.findings.end(), std::make_move_iterator(kept.findings.begin()),
                      std::make_move_iterator(kept.findings.end()));
  run.mentions = std::move(kept.mentions);
  run.search_order = std::move(kept.search_order);
  run.questions = std::move(kept.questions);
  for (auto& question : run.questions) question.kept = true;
  run.plan = std::move(kept.plan);
  run.plan_kept = true;
  taken_observed_ = std::move(taken.observed);
  taken_ = true;
  return true;
}

void Keeping::refuse(const model::Run& run) {
  observation_.reset();
  if (!observed_ || !run.problem) return;
  // What it wrote is taken away, and then it would be written again.
  observed_->forget_below(run.kiln + "/work");
  record::Kept kept;
  kept.refused = run.problem;
  record::keep(refusal_path(run), key_, *observed_, kept);
  observed_.reset();
}

void Keeping::keep(model::Run& run) {
  observation_.reset();
  if (taken_ || !observed_ || run.findings.size() < findings_) return;
  record::Kept kept;
  kept.project = run.project;
  kept.project.late.reset();
  kept.findings.assign(run.findings.begin() + static_cast<std::ptrdiff_t>(findings_), run.findings.end());
  kept.mentions = run.mentions;
  kept.search_order = run.search_order;
  kept.questions = run.questions;
  kept.plan = run.plan;
  run.plan_not_kept = record::keep(path_of(run), key_, *observed_, kept);
  observed_.reset();
}

void Keeping::give_up() {
  observation_.reset();
  observed_.reset();
}

}  // namespace coctilis::pipeline
