#include "pipeline/pipeline.h"

#include <thread>

#include "base/archive.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/mirror.h"
#include "describe/readers.h"
#include "describe/sources/reader.h"
#include "doctor/doctor.h"
#include "locate/toolchain.h"
#include "pipeline/inner_make.h"
#include "pipeline/locating.h"
#include "pipeline/reached_makes.h"
#include "pipeline/recipes.h"
#include "pipeline/results.h"
#include "pipeline/submodules.h"
#include "plan/planner.h"
#include "plan/recipes.h"
#include "record/record.h"
#include "stage/desktop.h"
#include "stage/stage.h"
#include "stage/starters.h"
#include "survey/repository_list.h"
#include "survey/settings.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

bool stop(model::Run& run, Problem problem) {
  // Whatever a stage says when it is cut off, the exit code tells of the signal.
  if (interrupted_by != 0) run.outcome.interrupted_by = interrupted_by;
  run.problem = std::move(problem);
  return false;
}

bool open_tree(model::Run& run, const std::function<void(std::uint64_t)>& unpacked) {
  std::string& tree = run.options.tree;
  if (files::is_file(tree) && files::is_archive_name(tree)) {
    const auto made = files::unpack_beside(tree, {}, unpacked);
    if (!made) return stop(run, made.problem());
    run.unpacked_from = files::absolute(tree);
    tree = made->folder;
  }
  std::error_code error;
  const auto real = std::filesystem::canonical(tree, error);
  run.tree = error ? files::absolute(tree) : real.string();
  return true;
}

bool settings(model::Run& run) {
  const auto& options = run.options;
  const std::string& folder = run.as_member.inherited ? run.as_member.settings_folder : run.tree;
  const model::Settings before = run.as_member.inherited.value_or(model::Settings{});
  auto read = survey::settings_of(folder, options.config, before);
  if (!read) return stop(run, read.problem());
  run.settings = *read;
  if (!run.as_member.inherited) {
    if (const auto listed = survey::read_repository_lists(run.tree, run.settings); !listed)
      return stop(run, listed.problem());
  }
  // Its own settings name a file in its own folder.
  if (run.as_member.inherited && folder != run.tree && run.settings.description != before.description)
    run.settings.description = files::below(files::absolute(run.settings.description, folder), run.tree);
  // Who names targets by their sources wants those.
  if (!run.settings.targets.empty() && run.settings.description.empty())
    run.settings.description = describe::sources::description_name;
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
  if (options.toolchain.empty() && run.settings.toolchain.empty() && !options.user.toolchain.empty())
    run.settings.toolchain = {{options.user.toolchain, {}, {options.user.file, 0, 0}}};
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
  for (const auto& prefix : options.user.prefixes) {
    if (std::find(run.settings.prefixes.begin(), run.settings.prefixes.end(), prefix) != run.settings.prefixes.end())
      continue;
    run.settings.user_file = options.user.file;
    run.settings.user_prefixes.push_back(prefix);
    run.settings.prefixes.push_back(prefix);
  }
  for (auto& need : run.settings.needs) {
    const auto kit = options.user.kits.find(need.kit);
    if (kit == options.user.kits.end() || !need.prefix.empty()) continue;
    need.prefix = kit->second;
    const auto place = options.user.places.find("kits." + need.kit);
    if (place != options.user.places.end()) need.places["prefix"] = place->second;
  }
  run.settings.mirrors = options.user.mirrors;
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
  // What the description writes about its place must name the place it goes to.
  if (!options.prefix.empty())
    run.settings.options.try_emplace("CMAKE_INSTALL_PREFIX", files::absolute(options.prefix));
  run.settings.rerun = options.rerun;
  run.settings.jobs = options.jobs != 0 ? options.jobs : std::max(1U, std::thread::hardware_concurrency());
  return true;
}

bool repeat(model::Run& run, bool checks, Session& session) {
  const auto taken = session.repeating.take(run, checks, session.lock);
  return taken ? true : stop(run, taken.problem());
}

bool survey(model::Run& run, Session& session) {
  if (run.repeats) {
    run.reached = model::Stage::survey;
    return true;
  }
  session.repeating.begin();
  auto found = survey::survey(run.tree, run.settings, describe::description_formats(), session.repeating.sights());
  if (!found) return stop(run, found.problem());
  run.survey = std::move(*found);
  if (run.settings.components.empty()) run.settings.components = run.survey.parts;
  run.survey.members = run.settings.components.size();
  run.reached = model::Stage::survey;
  return true;
}

bool fill(model::Run& run, Session& session, survey::FillObserver& observer) {
  const unsigned jobs = std::min(4U, std::max(1U, run.options.jobs == 0 ? 4U : run.options.jobs));
  auto result = survey::fill(run.tree, run.settings, jobs, observer);
  if (!result) return stop(run, result.problem());
  run.filled = result->entries;
  if (result->interrupted) {
    run.outcome.interrupted_by = interrupted_by;
    return stop(run, {Exit::missing, {}, "interrupted", {}, "run it again: what was brought in stays", {}});
  }
  session.repeating.give_up();
  if (!survey(run, session)) return false;
  if (result->complete()) return true;
  const auto bad = result->count(survey::FillOutcome::failed) + result->count(survey::FillOutcome::refused);
  const auto first = std::find_if(result->entries.begin(), result->entries.end(), [](const survey::Filled& f) {
    return f.outcome == survey::FillOutcome::failed || f.outcome == survey::FillOutcome::refused;
  });
  return stop(run, {Exit::missing,
                    {},
                    text::count(bad, "repository", "repositories") + " could not be filled",
                    first->path + ": " + first->reason,
                    first->remedy,
                    {}});
}

namespace {
// Forgets all that came after the tool chain was chosen.
void read_again(model::Run& run) {
  run.findings.resize(run.findings.size() > 1 && run.findings[1].how == "linker" ? 2 : 1);
  run.problem.reset();
  run.project = {};
  run.plan = {};
  run.questions.clear();
}
}  // namespace

bool follow_another(model::Run& run, Session& session, std::string& note) {
  if (!run.problem || !run.settings.description.empty() || interrupted_by != 0) return false;
  // What nobody knows how to install is most likely a mistake of the description.
  const bool hopeless =
      run.problem->exit == Exit::missing &&
      std::none_of(run.findings.begin(), run.findings.end(), [](const model::Finding& f) {
        return f.requirement.required && !f.found &&
               (!f.package.empty() || f.requirement.kind == model::RequirementKind::submodule ||
                f.requirement.kind == model::RequirementKind::toolchain ||
                f.requirement.kind == model::RequirementKind::file || f.requirement.required_by == "coctilis.toml");
      });
  if (run.problem->exit != Exit::description && !hopeless) return false;
  model::Description* next = nullptr;
  model::Description* now = nullptr;
  for (auto& d : run.survey.descriptions) {
    if (d.followed) now = &d;
  }
  for (auto& d : run.survey.descriptions) {
    if (now == nullptr || d.followed || !d.readable || next != nullptr || d.reason.starts_with("cannot be followed"))
      continue;
    const auto* reader = describe::reader_of(&d);
    const auto* failed = describe::reader_of(now);
    if (reader == nullptr || reader->is_hint() || failed == nullptr) continue;
    // A description that is wrong is for its author to mend; one that is beyond this program is not.
    if (reader->format.by_sources && !failed->is_hint() && !run.problem->not_understood) continue;
    if (failed->leads_back != nullptr && failed->leads_back(files::read(run.survey.tree + "/" + d.path).value_or("")))
      continue;
    next = &d;
  }
  if (now == nullptr || next == nullptr) return false;
  session.keeping.refuse(run);
  session.repeating.give_up();
  const std::string place = run.problem->place.text();
  std::vector<std::string> names;
  for (const auto& finding : run.findings) {
    if (run.problem->exit == Exit::missing && finding.requirement.required && !finding.found)
      names.push_back(finding.requirement.name);
  }
  note = now->path + " cannot be followed (" + (place.empty() ? "" : place + ": ") + run.problem->what +
         (names.empty() ? "" : ": " + text::join(names, ", ")) +
         (describe::reader_of(next)->format.by_sources
              ? "); building from the sources alone: what it says beyond them may be missing"
              : "); following " + next->path);
  now->followed = false;
  now->reason = "cannot be followed: " + run.problem->what;
  next->followed = true;
  next->reason = "those before it cannot be followed";
  read_again(run);
  return true;
}

bool build_a_copy(model::Run& run, Session& session, std::string& note) {
  const auto* reader = describe::reader_of(run.survey.followed());
  if (!run.problem || run.problem->exit != Exit::step || interrupted_by != 0 || reader == nullptr ||
      reader->use_copy == nullptr)
    return false;
  const auto& results = run.outcome.steps;
  const auto refused = std::find_if(results.begin(), results.end(), [](const auto& result) { return result.refused; });
  if (refused == results.end()) return false;
  const auto& step = run.plan.steps[static_cast<std::size_t>(refused - results.begin())];
  const std::string what = std::string(model::name_of(step.kind)) + " " + step.subject + " writes in the source tree";
  const auto marked = guarded("asking for a copy of the tree", [&] {
    reader->use_copy(run.kiln + "/work", {Exit::done, step.place, what, {}, {}, {}});
    return true;
  });
  if (!marked) return false;
  note = (step.place.file.empty() ? "" : step.place.text() + ": ") + what + "; building a copy of the tree";
  session.keeping.give_up();
  session.repeating.give_up();
  run.outcome = {};
  run.built = false;
  read_again(run);
  return true;
}

namespace {

// The plan as compile_commands.json, on which a kept plan hangs from then on: whoever takes it away gets it again.
Result<bool> write_database(const model::Run& run) {
  return guarded("writing the compile database", [&] {
    const std::string path = run.kiln + "/compile_commands.json";
    {
      const observe::Apart apart;
      files::write_if_different(path, plan::compile_database(run.plan));
    }
    // With recipes it is written again once they have shown what they compile.
    if (!run.project.by_recipes) observe::wrote(path);
    return true;
  });
}

}  // namespace

bool plan(model::Run& run, Session& session) {
  if (run.repeats) {
    run.reached = model::Stage::plan;
    return true;
  }
  if (session.keeping.taken()) {
    if (run.project.by_recipes) run.plan.environment = session.environment;
    if (run.project.by_recipes && !files::is_file(run.kiln + "/compile_commands.json")) {
      if (const auto written = write_database(run); !written) return stop(run, written.problem());
    }
    run.reached = model::Stage::plan;
    return true;
  }
  // Programs that run while building are made for this machine, also when all else is for another.
  model::Toolchain host;
  if (run.toolchain.foreign) {
    auto all = run.settings.sysroot.empty() ? run.toolchains : locate::toolchains({}, *session.answers);
    model::Settings plain = run.settings;
    plain.machine.clear();
    plain.toolchain.clear();
    host = locate::choose(all, plain, languages_of(run.survey)).toolchain;
    if (host.foreign) host = {};
  }
  auto made = plan::make_plan(run.project, run.toolchain, run.settings, run.kiln, host.name.empty() ? nullptr : &host);
  if (!made) {
    run.problem = made.problem();
    // What a submodule that is not filled would have had.
    if (can_be_filled(run)) {
      add_submodule_requirements(run);
      if (stop_for_missing(run)) return false;
    }
    return stop(run, *run.problem);
  }
  run.plan = std::move(*made);
  if (const auto written = write_database(run); !written) return stop(run, written.problem());
  session.keeping.keep(run);
  if (run.project.by_recipes) run.plan.environment = session.environment;
  run.reached = model::Stage::plan;
  return true;
}

bool look_what_is_due(model::Run& run) {
  if (run.repeats) {
    run.due.emplace().up_to_date = run.repeats->up_to_date;
    return true;
  }
  auto selection = plan::select_steps(run.plan, run.options.targets);
  if (!selection) return stop(run, selection.problem());
  engine::Request request;
  request.selection = *selection;
  if (run.project.by_recipes) {
    request.given = describe::given_in(run.plan.in_copy() ? run.plan.tree : run.plan.work);
    request.settled = [](const model::Step& step) { return calls_are_settled(step.calls); };
  } else if (run.plan.in_copy()) {
    request.given = describe::given_in(run.plan.tree);
  }
  const auto due = engine::due(run.plan, request);
  if (!due) return stop(run, due.problem());
  run.due.emplace();
  for (const auto& one : *due) run.due->steps.push_back({one.step, one.reason, one.perhaps});
  run.due->up_to_date = static_cast<std::size_t>(std::count(selection->begin(), selection->end(), true)) - due->size();
  return true;
}

bool build(model::Run& run, Session& session, engine::Observer& observer) {
  if (run.repeats) {
    run.outcome.up_to_date = run.repeats->up_to_date;
    run.built = true;
    run.reached = model::Stage::build;
    return true;
  }
  auto selection = plan::select_steps(run.plan, run.options.targets);
  if (!selection) return stop(run, selection.problem());
  engine::Request request;
  request.selection = *selection;
  request.jobs = run.settings.jobs;
  request.load = run.options.load;
  request.keep_going = run.options.keep_going;
  request.colours = run.options.colours;
  request.leave_out_documents = run.options.targets.empty();
  request.tidy = true;
  request.sweeps = run.project.complete;
  std::optional<SharedCount> others;
  std::optional<SharedCount> own;
  std::optional<JobTokens> tokens;
  if (!run.options.shared_count.empty()) {
    own.emplace(run.options.shared_count);
    request.own = &*own;
  }
  if (run.project.by_recipes) {
    prepare_for_recipes(run, request);
    begin_reaching(run.kiln + "/make");
    if (!run.plan_kept) forget_other_purposes(run.kiln + "/make");
    // Every process but one of the whole build takes a token; this run begins with one of its own.
    tokens.emplace(run.kiln + "/make/tokens");
    request.tokens = &*tokens;
    // What make was asked while the description was read counts no more.
    std::error_code error;
    std::filesystem::remove(run.plan.environment["COCTILIS_MAKE_COUNT"], error);
    others.emplace(run.plan.environment["COCTILIS_MAKE_COUNT"]);
    request.others = &*others;
  } else if (!run.options.shared_tokens.empty()) {
    tokens.emplace(run.options.shared_tokens);
    request.tokens = &*tokens;
  }
  if (!run.project.by_recipes) {
    // Results of rules that lie in the tree itself came with it; in a copy, as far as they are as they were copied.
    request.given =
        run.plan.in_copy() ? describe::given_in(run.plan.tree) : [&plan = run.plan](const std::string& path) {
          return files::is_below(path, plan.tree) && !files::is_below(path, plan.kiln);
        };
  }
  request.sights = session.repeating.sights();
  auto outcome = engine::build(run.plan, request, observer);
  if (!outcome) return stop(run, outcome.problem());
  run.outcome = std::move(*outcome);
  run.built = true;
  if (run.project.by_recipes) {
    const auto found = guarded("looking at what was made", [&] {
      add_what_recipes_made(run);
      return true;
    });
    if (!found) return stop(run, found.problem());
  }
  const auto shown = guarded("showing the results", [&] {
    show_results(run);
    return true;
  });
  if (!shown) return stop(run, shown.problem());
  if (run.outcome.interrupted_by != 0) {
    return stop(run, {Exit::step, {}, "interrupted", {}, "run it again: what was finished stays finished", {}});
  }
  if (run.outcome.failed == 0) {
    if (const auto nothing = nothing_was_built(run)) return stop(run, *nothing);
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

namespace {
// What an installed tree has besides what its description installs.
bool complete_stage(model::Run& run) {
  if (run.project.by_recipes && !run.toolchain.foreign) {
    if (const auto added = stage::add_starters(run.staged); !added) return stop(run, added.problem());
  }
  const auto added = stage::add_desktop_entries(run.settings.desktop_entries, run.tree, run.staged);
  if (!added) return stop(run, added.problem());
  run.reached = model::Stage::stage;
  return true;
}
}  // namespace

bool stage(model::Run& run) {
  if (run.project.by_recipes) {
    const auto staged = stage_by_recipe(run);
    return staged ? complete_stage(run) : stop(run, staged.problem());
  }
  if (run.plan.install.empty())
    return stop(run, {Exit::description,
                      {},
                      "the description installs nothing",
                      {},
                      "finished programs and libraries are in the kiln's bin and lib",
                      {}});
  auto staged = stage::install(run.plan, files::absolute(run.options.prefix));
  if (!staged) return stop(run, staged.problem());
  run.staged = std::move(*staged);
  return complete_stage(run);
}

void record(model::Run& run, Session& session) {
  const auto kept = record::keep(run);
  if (!kept && !run.problem) run.problem = kept.problem();
  if (kept && !run.repeats) session.repeating.keep(run, session.keeping);
}

}  // namespace coctilis::pipeline
