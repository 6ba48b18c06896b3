// Options that commands share, and the stages with a line for each.
#include <unistd.h>

#include <ctime>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "commands.h"
#include "engine/diagnostics.h"
#include "pipeline/pipeline.h"
#include "record/record.h"
#include "report/report.h"
#include "report/sentences.h"

namespace coctilis::app {

void add_output(CLI::App& command, Common& common) {
  command.add_flag("--json", common.json, "One JSON document on standard output");
  command.add_flag("--plain", common.plain, "No colour, no live line");
  command.add_flag("-q,--quiet", common.quiet, "Only problems");
  command.add_flag("-v,--verbose", common.verbosity, "More; twice: commands as well");
}

void add_tree(CLI::App& command, Common& common) {
  command.add_option("TREE", common.run.tree, "The folder that holds the source tree (default: here)");
}

void add_common(CLI::App& command, Common& common) {
  command.add_option("--kiln", common.run.kiln, "Output folder; results are in DIR/<label> (default: TREE/kiln)")
      ->type_name("DIR");
  command.add_option("--config", common.run.config, "Another coctilis.toml, read after that of the tree")
      ->type_name("FILE");
  command.add_option("--variant", common.run.variant, "release, debug, or one of coctilis.toml")->type_name("NAME");
  command.add_option("--toolchain", common.run.toolchain, "\"gcc\", \"clang 14\", \"gcc >= 12\", or a machine triplet")
      ->type_name("NAME");
  command.add_option("--with", common.run.prefixes, "Look for libraries and programs here first (repeatable)")
      ->type_name("PREFIX")
      ->take_all()
      ->allow_extra_args(false);
  command.add_option("--set", common.run.sets, "Give an option of the description a value (repeatable)")
      ->type_name("NAME=VALUE")
      ->take_all()
      ->allow_extra_args(false);
  command.add_option("--unset", common.run.unsets, "Drop a value that --set has given earlier (repeatable)")
      ->type_name("NAME")
      ->take_all()
      ->allow_extra_args(false);
  command.add_flag("--only-these-options", common.run.only_these, "Values that were given earlier do not count")
      ->group("");
  command.add_option("-j,--jobs", common.run.jobs, "Parallel jobs (default: as many as processors)")
      ->type_name("N")
      ->check(CLI::Range(1, 4096));
  command.add_flag("--rerun", common.run.rerun,
                   "Read the description again, and run the tree's own scripts, whatever has changed");
  command.add_flag("--install", common.run.install, "Install missing packages (as root, or by sudo), then go on");
  add_output(command, common);
}

model::Run start_run(const Common& common) {
  model::Run run;
  run.options = common.run;
  run.command = common.command_line;
  const std::time_t when = std::time(nullptr);
  std::tm parts{};
  ::gmtime_r(&when, &parts);
  char buffer[32];
  std::strftime(buffer, sizeof buffer, "%Y-%m-%dT%H:%M:%SZ", &parts);
  run.started = buffer;
  return run;
}

std::string from_here(const std::string& path) {
  const std::string here = files::absolute(".");
  return files::is_below(path, here) ? files::below(path, here) : path;
}

namespace {

void print_failures(Screen& screen, const model::Run& run) {
  if (run.outcome.failures.empty()) return;
  const auto index = run.outcome.failures.front();
  const auto& result = run.outcome.steps[index];
  screen.foreign(engine::first_error(result.output));
  if (!result.command.empty() && screen.verbosity() > 0) screen.remark("command", result.command);
}

// Where the finished programs and libraries are.
void print_results(Screen& screen, const model::Run& run) {
  std::size_t programs = 0;
  std::size_t libraries = 0;
  for (const auto& target : run.plan.targets) {
    if (target.output.empty() || !files::is_file(target.output)) continue;
    (target.kind == model::TargetKind::program ? programs : libraries)++;
  }
  const std::string kiln = from_here(run.kiln);
  std::vector<std::string> parts;
  if (programs > 0) parts.push_back(text::count(programs, "program") + " in " + kiln + "/bin");
  if (libraries > 0) parts.push_back(text::count(libraries, "library", "libraries") + " in " + kiln + "/lib");
  if (!parts.empty()) screen.line("built", text::join(parts, ", "));
}

void print_failed_checks(Screen& screen, const model::Run& run) {
  for (const auto& check : run.checks) {
    if (check.verdict != model::Verdict::failed) continue;
    screen.remark("failed", check.name + ": " + check.reason, Tone::bad);
    if (!check.command.empty()) screen.remark("", check.command);
    if (!check.output.empty()) {
      // The end of a long output says most.
      const auto lines = text::split(text::printable(check.output), '\n');
      std::string last;
      for (std::size_t i = lines.size() > 20 ? lines.size() - 20 : 0; i < lines.size(); ++i)
        last += "  " + lines[i] + "\n";
      while (last.ends_with("  \n")) last.resize(last.size() - 3);
      screen.foreign(last);
    }
  }
}

// What is missing of other repositories is only brought in when the user says so.
bool asked_to_fill(Screen& screen, const model::Run& run) {
  if (!pipeline::can_be_filled(run) || screen.quiet() || screen.json() || ::isatty(STDIN_FILENO) == 0 ||
      !screen.is_live())
    return false;
  std::vector<std::string> names;
  for (const auto& m : run.survey.submodules) {
    if (m.state == model::SubmoduleState::empty && !m.pinned.empty())
      names.push_back(m.path + " (revision " + m.pinned.substr(0, 12) + " of " + m.url + ")");
  }
  for (const auto& name : names) screen.line("empty", name, Tone::bad);
  return screen.confirm("bring in " + text::count(names.size(), "submodule") + " now?");
}

bool locate_all(Screen& screen, model::Run& run, pipeline::Session& session) {
  screen.live("locate    asking compilers and looking for libraries");
  session.progress = [&screen](const std::string& text) { screen.live(text); };
  const bool located = pipeline::toolchain(run, session) && pipeline::locate(run, session);
  screen.live("");
  return located;
}

bool locate_again(Screen& screen, model::Run& run, pipeline::Session& session) {
  screen.live("locate    reading another description");
  const bool located = pipeline::locate(run, session);
  screen.live("");
  return located;
}

bool build_steps(Screen& screen, model::Run& run, pipeline::Session& session) {
  BuildProgress progress(screen, run.plan);
  run.options.colours = screen.colours();
  const bool built = pipeline::build(run, session, progress);
  screen.live("");
  return built;
}

bool stages(const Common& common, Goal goal, Screen& screen, model::Run& run, pipeline::Session& session) {
  const bool opened = pipeline::open_tree(run, [&](std::uint64_t bytes) {
    screen.live("unpack    " + text::size(bytes) + " of " + from_here(run.options.tree));
  });
  screen.live("");
  if (!opened) return false;
  if (!run.unpacked_from.empty()) screen.line("unpack", from_here(run.unpacked_from) + " to " + from_here(run.tree));
  if (!pipeline::settings(run)) return false;
  // Whoever asks for everything that a run knows gets it worked out.
  const bool may_repeat = (goal == Goal::build || goal == Goal::smoke) && !common.fill && !common.json;
  if (may_repeat && !pipeline::repeat(run, goal == Goal::smoke, session)) return false;
  if (!pipeline::survey(run, session)) return false;
  screen.line("survey", report::survey_sentence(run.survey));
  if (common.fill || (goal == Goal::smoke && asked_to_fill(screen, run))) {
    const bool filled = fill_tree(screen, run, session);
    if (!filled) return false;
  }
  if (goal == Goal::survey) {
    print_survey(screen, run);
    return true;
  }
  bool located = locate_all(screen, run, session);
  for (std::string note; !located && pipeline::follow_another(run, session, note);) {
    screen.remark("note", note);
    located = locate_again(screen, run, session);
  }
  if (!located && run.options.install && !run.install.empty()) {
    screen.line("install", text::join({run.install.begin() + 2, run.install.end()}, ", "));
    screen.live("install   " + text::join(run.install, " "));
    const bool installed = pipeline::install(run, session, ::isatty(STDIN_FILENO) == 1);
    screen.live("");
    if (!installed) return false;
    located = locate_all(screen, run, session);
  }
  for (const auto& note : run.notes) screen.remark("note", note);
  if (!run.toolchain.name.empty()) screen.line("locate", report::locate_sentence(run));
  if (goal == Goal::locate && common.changes)
    print_changes(screen, run);
  else if (goal == Goal::locate)
    print_wants(screen, run);
  else if (!located)
    print_missing(screen, run);
  for (const auto& remark : run.project.warnings)
    screen.remark("note", (remark.place.file.empty() ? "" : remark.place.text() + ": ") + remark.what +
                              (remark.remedy.empty() ? "" : "; " + remark.remedy));
  if (!located) return false;
  if (screen.verbosity() > 0) {
    for (const auto& message : run.project.messages) screen.remark("says", message);
  }
  if (goal == Goal::locate) return true;
  if (common.options) {
    print_options(screen, run);
    return true;
  }
  bool planned = pipeline::plan(run, session);
  for (std::string note; !planned && pipeline::follow_another(run, session, note);) {
    screen.remark("note", note);
    planned = locate_again(screen, run, session) && pipeline::plan(run, session);
  }
  if (!planned) {
    print_missing(screen, run);
    return false;
  }
  screen.line("plan", report::plan_sentence(run));
  if (!run.options_in_force.empty()) screen.line("options", report::options_sentence(run));
  for (const auto& note : run.plan.notes) screen.remark("note", note);
  if (goal == Goal::plan) {
    print_plan(screen, run);
    return true;
  }
  bool built = build_steps(screen, run, session);
  for (std::string note; !built && pipeline::build_a_copy(run, session, note);) {
    screen.remark("note", note);
    if (!locate_again(screen, run, session) || !pipeline::plan(run, session)) {
      print_missing(screen, run);
      return false;
    }
    built = build_steps(screen, run, session);
  }
  if (run.built) screen.line("build", report::build_sentence(run), run.outcome.failed > 0 ? Tone::bad : Tone::name);
  for (const auto& text : report::left_out_sentences(run)) screen.remark("left out", text);
  if (run.outcome.ignored > 0) screen.remark("ignored", report::ignored_sentence(run));
  for (const auto& note : run.outcome.notes) screen.remark("note", note);
  if (!built) return false;
  if (goal == Goal::build) return true;
  if (goal == Goal::stage) {
    if (!pipeline::stage(run)) return false;
    screen.line("stage", report::stage_sentence(run));
    print_staged(screen, run);
    return true;
  }
  const bool good = pipeline::smoke(run, [&](const model::Check& check) {
    screen.live("smoke     " + std::string(model::name_of(check.verdict)) + ": " + text::printable_line(check.name));
    if (screen.verbosity() > 0) screen.remark(model::name_of(check.verdict), check.name + ": " + check.reason);
  });
  screen.live("");
  if (run.checked) screen.line("smoke", report::smoke_sentence(run), good ? Tone::name : Tone::bad);
  for (const auto& check : run.checks) {
    if (check.verdict == model::Verdict::skipped) screen.remark("skipped", check.name + ": " + check.reason);
  }
  return good;
}

}  // namespace

int run_stages(Common& common, Goal goal, Screen& screen, model::Run& run) {
  const double begin = now();
  pipeline::Session session;
  stages(common, goal, screen, run, session);
  run.seconds = now() - begin;
  if (session.lock && goal >= Goal::build) {
    pipeline::record(run, session);
    if (run.built) print_results(screen, run);
    if (run.number > 0) {
      screen.line("record", from_here(record::folder(run) + "/report.html"));
    }
  }
  if (run.problem) {
    screen.problem(*run.problem);
    // The first error comes last and whole: it is what the user looks for.
    print_failures(screen, run);
    print_failed_checks(screen, run);
  } else if (goal >= Goal::build)
    screen.line("done",
                (goal == Goal::stage ? "installed, "
                 : run.checked       ? "passed, "
                                     : "built, ") +
                    text::duration(run.seconds),
                Tone::good);
  if (common.json) {
    switch (goal) {
      case Goal::survey: screen.text(report::survey_json(run)); break;
      case Goal::locate: screen.text(report::locate_json(run)); break;
      case Goal::plan: screen.text(common.options ? report::locate_json(run) : report::plan_json(run)); break;
      case Goal::build:
      case Goal::stage:
      case Goal::smoke: screen.text(report::run_json(run)); break;
    }
  }
  return run.exit_code();
}

int run_stages(Common& common, Goal goal) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  model::Run run = start_run(common);
  return run_stages(common, goal, screen, run);
}

}  // namespace coctilis::app
