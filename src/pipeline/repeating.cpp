#include "pipeline/repeating.h"

#include <algorithm>

#include "base/files.h"
#include "locate/toolchain.h"
#include "pipeline/clients_prefix.h"
#include "pipeline/kept_options.h"
#include "pipeline/pipeline.h"
#include "record/kept.h"
#include "record/record.h"
#include "record/standing.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

Result<bool> Repeating::take(model::Run& run, bool checks, std::shared_ptr<engine::KilnLock>& lock) {
  return guarded("looking at the run before", [&] {
    run.kiln_root = survey::kiln_root(run.tree, run.options.kiln);
    key_ = record::key_of_run(run);
    active_ = run.options.unsets.empty();
    if (!active_ || run.options.rerun) return false;
    const std::string kiln = record::find_standing(run.kiln_root, key_, checks);
    if (kiln.empty()) return false;
    // Nobody else may change anything in it between the look and what follows.
    auto opened = engine::open_kiln(run.kiln_root, kiln, survey::kiln_mark, run.own_tree());
    if (!opened) throw Fault(opened.problem());
    if (!opened->note.empty() || !record::take_standing(kiln, key_, run, [&](const model::Plan& plan) {
          return !checks || is_installed_for_clients(plan, kiln);
        }))
      return false;
    run.kiln = kiln;
    lock = opened->lock;
    if (const auto taken = take_kept_options(run); !taken) throw Fault(taken.problem());
    run.environment = locate::environment_in_use();
    run.compared = true;
    active_ = false;
    return true;
  });
}

void Repeating::begin() {
  if (!active_) return;
  observed_ = std::make_unique<Observed>();
  observation_ = std::make_unique<Observation>(*observed_);
}

void Repeating::seen() {
  observation_.reset();
  if (!active_ || !observed_) return;
  observed_->show(sights_, [](const std::string&, const std::string&) { return false; });
  observed_.reset();
}

void Repeating::give_up() {
  active_ = false;
  observation_.reset();
  observed_.reset();
}

// What is installed as it lies there is read by no step, and may lie outside of what the survey has seen.
void Repeating::see_what_is_installed(const model::Run& run) {
  for (const auto& item : run.plan.install) {
    const bool lies_there =
        item.kind == model::InstallItem::Kind::file || item.kind == model::InstallItem::Kind::folder;
    if (!lies_there || item.from.empty() || files::is_below(item.from, run.kiln)) continue;
    sights_.look(files::exists(item.from) ? Sights::Kind::file : Sights::Kind::absent, item.from);
    if (item.kind != model::InstallItem::Kind::folder) continue;
    std::error_code error;
    for (auto it = std::filesystem::recursive_directory_iterator(item.from, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error))
      sights_.look(it->is_symlink() ? Sights::Kind::link : Sights::Kind::file, it->path().string());
    if (error) sights_.spoil();
  }
}

void Repeating::keep(model::Run& run, const Keeping& plan) {
  const auto& outcome = run.outcome;
  const bool nothing_happened = run.built && outcome.good() && outcome.ran == 0 && outcome.ignored == 0 &&
                                outcome.left_out == 0 && outcome.up_to_date > 0;
  if (!active_ || !nothing_happened || !run.plan_kept || !plan.taken() || run.project.late || run.number == 0 ||
      !run.filled.empty())
    return;
  // The user may be asked whether to bring in what is missing, and what comes then is another tree.
  if (can_be_filled(run)) return;
  // Whether files in another repository were changed is only seen of those that the survey sees.
  if (!run.survey.submodules.empty() && !run.settings.leave_out.empty()) return;
  // Inner makes have plans of their own, and actions that are worked out late hang on who knows what.
  const auto& steps = run.plan.steps;
  if (std::any_of(steps.begin(), steps.end(), [](const auto& step) { return step.late || !step.calls.empty(); }))
    return;
  // A copy in the kiln is as it was as long as the tree is, all of which the survey has seen.
  plan.observed().show(sights_, [&](const std::string& from, const std::string& to) {
    return run.settings.leave_out.empty() && from == run.tree && to == run.kiln + "/work";
  });
  see_what_is_installed(run);
  for (const char* name : {"journal", "kept", "compile_commands.json", "place", kept_options_name, "work.of"})
    sights_.see_own(run.kiln + "/" + name);
  sights_.look(Sights::Kind::presence, record::folder(run) + "/run.json");
  for (const char* name : {"bin", "lib"}) sights_.see_own_below(run.kiln + "/" + name);
  if (!sights_.spoilt()) record::keep_standing(run, key_, sights_);
  active_ = false;
}

}  // namespace coctilis::pipeline
