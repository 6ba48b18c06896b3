#include "pipeline/pipeline.h"

#include <thread>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/readers.h"
#include "doctor/doctor.h"
#include "locate/locator.h"
#include "locate/needs.h"
#include "locate/toolchain.h"
#include "plan/planner.h"
#include "record/record.h"
#include "smoke/smoke.h"
#include "survey/settings.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

namespace {
bool stop(model::Run& run, Problem problem) {
  // Whatever a stage says when it is cut off, the exit code tells of the signal.
  if (interrupted_by != 0) run.outcome.interrupted_by = interrupted_by;
  run.problem = std::move(problem);
  return false;
}
}  // namespace

bool settings(model::Run& run) {
  const auto& options = run.options;
  std::error_code error;
  const auto real = std::filesystem::canonical(options.tree, error);
  run.tree = error ? files::absolute(options.tree) : real.string();
  auto read = survey::settings_of(run.tree, options.config);
  if (!read) return stop(run, read.problem());
  run.settings = *read;
  if (!options.variant.empty()) run.settings.variant = options.variant;
  if (!run.settings.variants.contains(run.settings.variant)) {
    std::vector<std::string> names;
    for (const auto& [name, variant] : run.settings.variants) names.push_back(name);
    return stop(run, {Exit::usage,
                      {},
                      "there is no variant '" + run.settings.variant + "'",
                      {},
                      "there are " + text::join(names, ", ") + "; [variant.NAME] in coctilis.toml adds more",
                      {}});
  }
  if (!options.toolchain.empty()) {
    // A triplet names the machine; everything else the compiler.
    const bool triplet = std::count(options.toolchain.begin(), options.toolchain.end(), '-') >= 2;
    if (triplet)
      run.settings.machine = options.toolchain;
    else
      run.settings.toolchain = {{options.toolchain, {}, {}}};
    run.settings.toolchain_place = {};
  }
  for (const auto& prefix : options.prefixes) run.settings.prefixes.push_back(files::absolute(prefix));
  for (const auto& prefix : run.settings.prefixes) {
    if (!files::is_folder(prefix))
      return stop(
          run,
          {Exit::usage, {}, "the prefix '" + prefix + "' given with --with is no folder", {}, "check the path", {}});
  }
  for (const auto& set : options.sets) {
    const auto equals = set.find('=');
    if (equals == 0 || equals == std::string::npos)
      return stop(run,
                  {Exit::usage, {}, "--set takes NAME=VALUE, not '" + set + "'", {}, "write --set NAME=VALUE", {}});
    run.settings.options[set.substr(0, equals)] = set.substr(equals + 1);
    run.settings.option_places.erase(set.substr(0, equals));
  }
  run.settings.jobs = options.jobs != 0 ? options.jobs : std::max(1U, std::thread::hardware_concurrency());
  return true;
}

bool survey(model::Run& run) {
  auto found = survey::survey(run.tree, run.settings, describe::readable_formats());
  if (!found) return stop(run, found.problem());
  run.survey = std::move(*found);
  run.reached = model::Stage::survey;
  return true;
}

bool toolchain(model::Run& run, Session& session) {
  // Before anything is written: a folder that is no tree stays as it is.
  if (auto problem = describe::nothing_to_follow(run.survey)) return stop(run, *problem);
  session.answers = std::make_unique<Answers>(Answers::usual_path());
  run.environment = locate::environment_in_use();
  run.toolchains = locate::toolchains(run.settings.prefixes, *session.answers);
  std::set<std::string> languages;
  for (const auto& l : run.survey.languages) {
    if (l.language == "C" || l.language == "C++" || l.language == "Fortran") languages.insert(l.language);
  }
  auto choice = locate::choose(run.toolchains, run.settings, languages);
  run.toolchain = choice.toolchain;
  run.findings = {choice.finding};
  if (!choice.finding.found) {
    run.install = locate::install_command(run.findings);
    return stop(run, {Exit::missing,
                      choice.finding.want.place,
                      "there is no tool chain for this tree: " + choice.finding.want.name,
                      choice.finding.reason,
                      text::join(run.install, " "),
                      {}});
  }
  run.label = run.toolchain.short_name() + "-" + run.settings.variant;
  run.kiln_root = survey::kiln_root(run.tree, run.options.kiln);
  run.kiln = run.kiln_root + "/" + run.label;
  auto opened = engine::open_kiln(run.kiln_root, run.kiln, survey::kiln_mark);
  if (!opened) return stop(run, opened.problem());
  session.lock = *opened;
  return true;
}

bool locate(model::Run& run, Session& session) {
  locate::Locator locator(run.toolchain, run.settings, session.answers.get());
  locate::locate_needs(run.settings, run.tree, locator);
  auto project = describe::read(run.survey, locator, run.kiln + "/work");
  const auto& findings = locator.findings();
  run.findings.insert(run.findings.end(), findings.begin(), findings.end());
  locate::name_packages(run.findings, run.toolchain, locator.packages());
  run.search_order = locator.search_order();
  if (!project) return stop(run, project.problem());
  run.project = std::move(*project);
  std::size_t missing = 0;
  for (const auto& finding : run.findings) missing += finding.want.required && !finding.found ? 1 : 0;
  if (missing > 0) {
    run.install = locate::install_command(run.findings);
    return stop(run, {Exit::missing,
                      {},
                      text::count(missing, "required want is", "required wants are") + " missing",
                      {},
                      run.install.empty() ? "say where it is with --with PREFIX, or mend what is named above"
                                          : text::join(run.install, " "),
                      {}});
  }
  run.reached = model::Stage::locate;
  return true;
}

bool plan(model::Run& run) {
  auto made = plan::make_plan(run.project, run.toolchain, run.settings, run.kiln);
  if (!made) return stop(run, made.problem());
  run.plan = std::move(*made);
  const auto written = guarded("writing the compile database", [&] {
    return files::write_if_different(run.kiln + "/compile_commands.json", plan::compile_database(run.plan));
  });
  if (!written) return stop(run, written.problem());
  run.reached = model::Stage::plan;
  return true;
}

namespace {

// Links in bin/ and lib/ to what was made; links to what is gone are removed.
void show_results(const model::Run& run) {
  std::error_code error;
  for (const char* group : {"/bin", "/lib"}) {
    for (auto it = std::filesystem::recursive_directory_iterator(run.kiln + group, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      if (it->is_symlink() && !run.plan.shown.contains(files::below(it->path().string(), run.kiln)))
        std::filesystem::remove(it->path(), error);
    }
  }
  for (const auto& [name, file] : run.plan.shown) {
    const std::string link = run.kiln + "/" + name;
    if (!std::filesystem::exists(run.kiln + "/" + file)) {
      std::filesystem::remove(link, error);
      continue;
    }
    const std::string to = files::relative(run.kiln + "/" + file, std::filesystem::path(link).parent_path().string());
    if (std::filesystem::read_symlink(link, error) == to) continue;
    files::make_folder(std::filesystem::path(link).parent_path());
    std::filesystem::remove(link, error);
    std::filesystem::create_symlink(to, link, error);
  }
}

}  // namespace

bool build(model::Run& run, engine::Observer& observer) {
  auto selection = plan::select_steps(run.plan, run.options.targets);
  if (!selection) return stop(run, selection.problem());
  engine::Request request{*selection, run.settings.jobs, run.options.keep_going, run.options.colours};
  auto outcome = engine::build(run.plan, request, observer);
  if (!outcome) return stop(run, outcome.problem());
  run.outcome = std::move(*outcome);
  run.built = true;
  const auto shown = guarded("showing the results", [&] {
    show_results(run);
    return true;
  });
  if (!shown) return stop(run, shown.problem());
  if (run.outcome.interrupted_by != 0) {
    return stop(run, {Exit::step, {}, "interrupted", {}, "run it again: what was finished stays finished", {}});
  }
  if (run.outcome.failed > 0) {
    const auto first = run.outcome.failures.front();
    run.outcome.diagnoses = doctor::diagnose(run.plan, run.plan.steps[first], run.outcome.steps[first]);
    const auto& step = run.plan.steps[first];
    std::string what = std::string(model::name_of(step.kind)) + " " + step.subject;
    if (!step.target.empty() && step.subject != step.target) what += " for '" + step.target + "'";
    what += " failed: " + run.outcome.steps[first].end;
    if (run.outcome.failed > 1) what += "; " + text::count(run.outcome.failed - 1, "further step") + " failed";
    Problem problem{Exit::step, step.place, what, {}, {}, {}};
    if (!run.outcome.diagnoses.empty()) {
      problem.cause = run.outcome.diagnoses.front().cause;
      problem.remedy = run.outcome.diagnoses.front().remedy;
    }
    return stop(run, problem);
  }
  run.reached = model::Stage::build;
  return true;
}

bool smoke(model::Run& run, const std::function<void(const model::Check&)>& ended) {
  smoke::Request request;
  request.only = run.options.checks;
  auto checks = smoke::run_checks(run.plan, run.settings, request, ended);
  if (!checks) return stop(run, checks.problem());
  run.checks = std::move(*checks);
  run.checked = true;
  if (interrupted_by != 0) {
    run.outcome.interrupted_by = interrupted_by;
    return stop(run, {Exit::check, {}, "interrupted", {}, "run it again", {}});
  }
  if (const auto failed = run.count_checks(model::Verdict::failed); failed > 0) {
    return stop(run, {Exit::check, {}, text::count(failed, "check") + " failed", {}, {}, {}});
  }
  run.reached = model::Stage::smoke;
  return true;
}

void record(model::Run& run) {
  const auto kept = record::keep(run);
  if (!kept && !run.problem) run.problem = kept.problem();
}

}  // namespace coctilis::pipeline
