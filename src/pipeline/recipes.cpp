#include "pipeline/recipes.h"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <map>
#include <set>

#include "base/confine.h"
#include "base/files.h"
#include "base/folder_stamps.h"
#include "base/hash.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/call.h"
#include "describe/mirror.h"
#include "describe/script/reader.h"
#include "engine/diagnostics.h"
#include "engine/known_files.h"
#include "pipeline/inner_make.h"
#include "pipeline/reached_makes.h"
#include "plan/planner.h"
#include "plan/recipes.h"

namespace coctilis::pipeline {

namespace {

// A make that is started gets the options as the makes of the build do.
void hand_on_options(const model::Run& run, Command& command) {
  describe::makefile::Call call;
  call.assignments = run.options.sets;
  if (!call.assignments.empty()) command.environment["MAKEFLAGS"] = describe::makefile::flags_text(call);
}

// Recipes that nobody asked for write where those of the build may, and nowhere else. Throws Fault.
void confine(const model::Run& run, Command& command) {
  const auto confinement = confinement_of(run.tree, run.kiln);
  command.writable = confinement.writable;
  for (const auto& [name, value] : confinement.environment) {
    files::make_folder(value);  // of temporary files
    command.environment[name] = value;
  }
}

// The call of the tree's own "install".
std::vector<std::string> make_install(const model::Run& run) {
  std::vector<std::string> out = {run.kiln + "/make/bin/make"};
  if (!run.project.install_makefile.empty()) out.insert(out.end(), {"-f", run.project.install_makefile});
  out.emplace_back("install");
  return out;
}

// What the tree's own "install" puts in place, in installed/ of the kiln: the names that users get. It may write
// nowhere else; one that wants to is asked again with the prefix by its usual names. That it fails is no failure of the
// build.
void install_in_kiln(model::Run& run) {
  if (run.project.install_folder.empty() || !run.outcome.good()) return;
  const std::string to = run.kiln + "/installed";
  std::error_code error;
  if (run.outcome.ran == 0 && std::filesystem::exists(to, error)) return;
  begin_reaching(run.kiln + "/make");
  std::filesystem::remove_all(to, error);
  for (const auto& words :
       {std::vector<std::string>{"DESTDIR=" + to}, std::vector<std::string>{"PREFIX=" + to, "prefix=" + to}}) {
    files::make_folder(to);
    Command command;
    command.argv = make_install(run);
    command.argv.insert(command.argv.end(), words.begin(), words.end());
    command.folder = run.project.install_folder;
    command.limit_seconds = 300;
    for (const auto& [name, value] : run.plan.environment) command.environment[name] = value;
    confine(run, command);
    command.writable.push_back(to);
    hand_on_options(run, command);
    const Ended ended = coctilis::run(command);
    files::write(run.kiln + "/installed.log", ended.output);
    if (ended.good()) break;
    std::filesystem::remove_all(to, error);
  }
  end_reaching(run.kiln + "/make", Purpose::install);
  // What was noted of these runs is no part of the build.
  std::filesystem::remove(run.kiln + "/make/steps", error);
}

// After a script has run: what it was seen to compile, and what each of its steps was made from, so that it can do
// without the script the next time.
void take_what_the_script_did(model::Run& run) {
  if (run.plan.steps.empty() || run.plan.steps.front().reads != model::Reads::noted) return;
  const auto learned = describe::script::last_run(run.plan.work);
  model::Plan plan = run.plan;
  plan.steps.clear();
  plan.targets.clear();
  plan::add_recipes(learned.recipes, plan.work, plan);
  auto& compilations = run.plan.steps.front().compilations;
  for (auto& step : plan.steps) {
    compilations.insert(compilations.end(), step.compilations.begin(), step.compilations.end());
  }
  if (!learned.replayable || run.outcome.ran == 0) return;
  if (const auto remembered = engine::remember_made(plan, learned.read); !remembered) throw Fault(remembered.problem());
}

// Descriptions that set their compilers' options themselves take none from outside: then the variant has no say.
void tell_of_variant(model::Run& run) {
  const auto variant = run.settings.variants.find(run.settings.variant);
  if (variant == run.settings.variants.end()) return;
  std::vector<std::string> wanted = variant->second.compile;
  if (variant->second.debug()) wanted.insert(wanted.begin(), {"-g", "-O0"});
  if (wanted.empty()) return;
  std::size_t all = 0;
  std::size_t without = 0;
  std::string example;
  for (const auto& step : run.plan.steps) {
    for (const auto& one : step.compilations) {
      ++all;
      std::string level;  // of optimisation: the last one counts
      for (const auto& word : one.argv) {
        if (word.starts_with("-O")) level = word;
      }
      const bool has_all = std::all_of(wanted.begin(), wanted.end(), [&](const auto& word) {
        if (word.starts_with("-O")) return level == word || (level.empty() && word == "-O0");
        return std::find(one.argv.begin(), one.argv.end(), word) != one.argv.end();
      });
      if (has_all) continue;
      ++without;
      if (example.empty())
        example = files::below(one.source, run.plan.work) + (level.empty() ? " has none" : " has " + level);
    }
  }
  if (without == 0) return;
  run.outcome.notes.push_back(
      "the variant '" + run.settings.variant + "' asks for " + text::join(wanted, " ") + ", but " +
      (without == all ? "no compilation has"
                      : std::to_string(without) + " of " + text::count(all, "compilation") + " have not") +
      " all of that (" + example + "): the description sets its options itself; --set gives its variables a value");
}

// Archivers and strippers write beside their result first, under a name of "st" and six letters or digits (the GNU
// binary utilities do); one that was killed leaves that. No step made it, so nobody will ever make it again.
void remove_what_killed_ones_left(std::vector<std::string>& made, const std::string& journal) {
  engine::KnownFiles known(journal);
  std::erase_if(made, [&](const std::string& path) {
    const std::string name = std::filesystem::path(path).filename().string();
    if (name.size() != 8 || !name.starts_with("st") ||
        !std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isalnum(c) != 0; }) ||
        known.is_made(path))
      return false;
    std::error_code error;
    std::filesystem::remove(path, error);
    return true;
  });
}

}  // namespace

// What the engine has to ask while it runs recipes.
void prepare_for_recipes(model::Run& run, engine::Request& request) {
  if (run.project.late)
    request.late = [&run](const model::Step& step) {
      model::Recipe recipe = run.project.recipes.at(step.key);
      recipe.lines = run.project.late->lines(recipe);
      auto actions = plan::actions_of(recipe);
      for (auto& action : actions) {
        if (!step.actions.empty()) action.environment = step.actions.front().environment;
      }
      return actions;
    };
  request.given = describe::given_in(run.plan.work);
  request.settled = [](const model::Step& step) { return calls_are_settled(step.calls); };
}

// Steps of inner makes, and programs and libraries that only show once they are there.
void add_what_recipes_made(model::Run& run) {
  std::vector<model::Step> steps;
  std::vector<model::StepResult> results;
  take_inner_steps(run.kiln + "/make", steps, results);
  for (std::size_t i = 0; i < steps.size(); ++i) {
    if (results[i].state == model::StepState::failed) {
      ++run.outcome.failed;
      // The innermost failure is the one that explains the others.
      run.outcome.failures.insert(run.outcome.failures.begin(), run.plan.steps.size());
    } else if (results[i].state == model::StepState::left_out) {
      ++run.outcome.left_out;
    } else {
      ++run.outcome.ran;
    }
    run.outcome.ignored += results[i].ignored.size();
    auto warnings = engine::find_diagnostics(results[i].output, run.plan.steps.size());
    std::erase_if(warnings, [](const auto& d) { return d.severity != "warning"; });
    run.outcome.warnings.insert(run.outcome.warnings.end(), warnings.begin(), warnings.end());
    run.plan.steps.push_back(std::move(steps[i]));
    run.outcome.steps.push_back(std::move(results[i]));
  }
  const std::string state = run.kiln + "/make";
  const bool all_reached = run.outcome.good() && run.options.targets.empty();
  if (all_reached) end_reaching(state, Purpose::build);
  take_what_the_script_did(run);
  tell_of_variant(run);
  install_in_kiln(run);
  if (all_reached && run.project.complete) {
    if (const auto swept = sweep_unreached(run.plan, state); !swept) throw Fault(swept.problem());
  }
  auto made = describe::made_in_mirror(run.plan.work);
  remove_what_killed_ones_left(made, run.kiln + "/journal");
  std::set<std::string> installed;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(run.kiln + "/installed", error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    // Only names that the build itself did not make.
    const std::string name = it->path().filename().string();
    installed.insert(name);
    const bool known =
        std::any_of(made.begin(), made.end(), [&](const auto& path) { return path.ends_with("/" + name); });
    if (!known && it->is_regular_file(error) && !it->is_symlink(error)) made.push_back(it->path().string());
  }
  plan::add_found_targets(made, run.plan);
  // What nobody knows to be a helper is taken for the product.
  if (!installed.empty()) {
    for (auto& target : run.plan.targets)
      target.installed = installed.contains(std::filesystem::path(target.output).filename().string());
  }
  plan::show_targets(run.plan);
  files::write_if_different(run.kiln + "/compile_commands.json", plan::compile_database(run.plan));
}

// What the makefile's own "install" does, told its prefix by the names that makefiles give it.
namespace {

// Others may install into the same prefix: this one's are those that were written now, or that an earlier run of it has
// written, as far as they are still there. These are noted in the kiln.
void note_staged(model::Run& run, const std::map<std::string, FileStamp>& before) {
  const std::string note = run.kiln + "/staged-" + hash_bytes(run.staged.prefix).text().substr(0, 12);
  std::set<std::string> earlier;
  for (const auto& file : text::split(files::read(note).value_or(""), '\n')) earlier.insert(file);
  for (const auto& [file, stamp] : stamps_below(run.staged.prefix)) {
    const auto was = before.find(file);
    const bool fresh = was == before.end() || was->second != stamp;
    if (fresh || earlier.contains(file)) run.staged.files.push_back(file);
    run.staged.written += fresh ? 1 : 0;
  }
  files::write_if_different(note, text::join(run.staged.files, "\n") + "\n");
}

}  // namespace

Result<bool> stage_by_recipe(model::Run& run) {
  const std::string prefix = files::absolute(run.options.prefix);
  if (run.project.install_folder.empty())
    return Problem{Exit::description,
                   {},
                   "the description installs nothing",
                   "it has no target 'install'",
                   "finished programs and libraries are in the kiln's bin and lib",
                   {}};
  Command command;
  command.argv = make_install(run);
  command.argv.insert(command.argv.end(), {"PREFIX=" + prefix, "prefix=" + prefix});
  command.folder = run.project.install_folder;
  for (const auto& [name, value] : run.plan.environment) command.environment[name] = value;
  const auto made = guarded("making the prefix", [&] {
    files::make_folder(prefix);
    confine(run, command);
    return true;
  });
  if (!made) return made.problem();
  command.writable.push_back(prefix);
  hand_on_options(run, command);
  const auto before = stamps_below(prefix);
  begin_reaching(run.kiln + "/make");
  const Ended ended = coctilis::run(command);
  end_reaching(run.kiln + "/make", Purpose::stage);
  if (!ended.good())
    return Problem{
        Exit::step,
        {run.project.description, 0, 0},
        "the target 'install' failed: " + ended.text(),
        text::printable(ended.output.size() > 4000 ? ended.output.substr(ended.output.size() - 4000) : ended.output),
        "a makefile may name its prefix otherwise: --set gives it",
        {}};
  run.staged.prefix = prefix;
  const auto noted = guarded("noting what was installed", [&] {
    note_staged(run, before);
    return true;
  });
  if (!noted) return noted.problem();
  return true;
}

}  // namespace coctilis::pipeline
