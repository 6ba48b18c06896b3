#include "record/standing.h"

#include "base/files.h"
#include "base/frame.h"
#include "base/packing.h"

namespace coctilis::record {

namespace {

// For runs of all kinds, and for those that make no checks.
constexpr std::string_view heading_for_all = "coctilis standing 3, all\n";
constexpr std::string_view heading_for_builds = "coctilis standing 3, builds\n";

std::string path_in(const std::string& kiln) { return kiln + "/" + standing_name; }

// What of a run its screen, its checks and its record need.
struct Standing {
  model::Survey survey;
  std::vector<model::Toolchain> toolchains;
  model::Toolchain toolchain;
  std::string label;
  std::vector<model::Finding> findings;
  std::vector<model::Question> questions;
  std::vector<std::string> search_order;
  std::vector<model::Mention> mentions;
  model::Project project;  // what people see of it
  model::Plan plan;        // without steps
  std::vector<std::string> notes;
  model::Repeats repeats;
};

}  // namespace

void keep_standing(model::Run& run, const std::string& key, const Sights& sights) {
  Standing standing;
  standing.survey = run.survey;
  standing.toolchains = run.toolchains;
  standing.toolchain = run.toolchain;
  standing.label = run.label;
  standing.findings = run.findings;
  standing.questions = run.questions;
  standing.search_order = run.search_order;
  standing.mentions = run.mentions;
  standing.project.name = run.project.name;
  standing.project.version = run.project.version;
  standing.project.description = run.project.description;
  standing.project.format = run.project.format;
  standing.project.by_recipes = run.project.by_recipes;
  standing.project.messages = run.project.messages;
  standing.project.warnings = run.project.warnings;
  standing.notes = run.outcome.notes;
  standing.repeats.run = run.number;
  standing.repeats.up_to_date = run.outcome.up_to_date;
  for (const auto& step : run.plan.steps) standing.repeats.steps += step.in_default ? 1 : 0;
  std::vector<model::Step> steps;
  steps.swap(run.plan.steps);
  standing.plan = run.plan;
  steps.swap(run.plan.steps);
  standing.plan.searches.clear();
  try {
    write_frame(path_in(run.kiln), run.project.by_recipes ? heading_for_builds : heading_for_all, key, sights.packed(),
                packed(standing));
  } catch (const Fault&) {
    std::error_code error;
    std::filesystem::remove(path_in(run.kiln), error);
  }
}

std::string find_standing(const std::string& kiln_root, const std::string& key, bool checks) {
  for (const auto& name : files::names_in(kiln_root)) {
    const std::string kiln = kiln_root + "/" + name;
    if (is_framed(path_in(kiln), heading_for_all, key) ||
        (!checks && is_framed(path_in(kiln), heading_for_builds, key)))
      return kiln;
  }
  return {};
}

bool take_standing(const std::string& kiln, const std::string& key, model::Run& run,
                   const std::function<bool(const model::Plan&)>& will_do) {
  const auto content = files::read(path_in(kiln));
  Frame frame;
  if (!content || (read_frame(*content, heading_for_all, key, frame) != Framed::whole &&
                   read_frame(*content, heading_for_builds, key, frame) != Framed::whole))
    return false;
  Standing standing;
  try {
    if (!Sights::stand(frame.seen)) return false;
    unpack(frame.kept, standing);
  } catch (const std::exception&) {
    return false;
  }
  if (!will_do(standing.plan)) return false;
  run.survey = std::move(standing.survey);
  run.toolchains = std::move(standing.toolchains);
  run.toolchain = std::move(standing.toolchain);
  run.label = std::move(standing.label);
  run.findings = std::move(standing.findings);
  run.questions = std::move(standing.questions);
  for (auto& question : run.questions) question.kept = true;
  run.search_order = std::move(standing.search_order);
  run.mentions = std::move(standing.mentions);
  run.project = std::move(standing.project);
  run.plan = std::move(standing.plan);
  run.outcome.notes = std::move(standing.notes);
  run.plan_kept = true;
  run.repeats = standing.repeats;
  return true;
}

}  // namespace coctilis::record
