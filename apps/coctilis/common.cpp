// Options that commands share, and the stages with a line for each.
#include <unistd.h>

#include <ctime>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "commands.h"
#include "describe/readers.h"
#include "engine/diagnostics.h"
#include "event_lines.h"
#include "pipeline/clients_prefix.h"
#include "pipeline/pipeline.h"
#include "record/record.h"
#include "report/report.h"
#include "report/sentences.h"
#include "report/variants.h"
#include "smoke/smoke.h"
#include "survey/around.h"
#include "survey/settings.h"
#include "survey/user_settings.h"
#include "terminal_relay.h"

namespace coctilis::app {

void add_output(CLI::App& command, Common& common) {
  command.add_flag("--json", common.json, "One JSON document on standard output");
  command.add_flag("--plain", common.plain, "No colour, no live line");
  command.add_option("--colour", common.colour, "always, never or auto: on terminals (default: auto)")
      ->type_name("WHEN")
      ->check(CLI::IsMember({"always", "never", "auto"}).description(""));
  command.add_flag("-q,--quiet", common.quiet, "Only problems");
  command.add_flag("-v,--verbose", common.verbosity, "More; twice: commands as well");
}

void add_tree(CLI::App& command, Common& common, std::vector<std::string>* words) {
  command.add_option("TREE", common.run.tree, "The folder that holds the source tree (default: the one around here)")
      ->each([&common](const std::string&) { common.tree_given = true; });
  command.preparse_callback([&common, words](std::size_t) {
    common.uses_tree = true;
    common.words = words;
  });
}

namespace {

// Whether the tree around a folder has a check of that name, which may be that of a folder as well.
bool names_a_check(const Common& common, const std::string& here) {
  if (common.words != &common.run.checks || common.run.tree.find('/') != std::string::npos) return false;
  const std::string around = survey::tree_around(here, describe::description_formats());
  const auto settings = survey::settings_of(around, common.run.config);
  if (!settings) return false;
  const auto is_it = [&](const auto& one) { return one.name == common.run.tree; };
  return std::any_of(settings->smoke.begin(), settings->smoke.end(), is_it) ||
         std::any_of(settings->services.begin(), settings->services.end(), is_it);
}

}  // namespace

void settle_user_settings(Common& common) {
  if (!common.uses_user_settings) return;
  auto read = survey::read_user_settings(survey::user_settings_path());
  if (!read) throw Fault(read.problem());
  common.user = std::move(*read);
  const auto& user = common.user;
  if (common.run.jobs == 0) common.run.jobs = user.jobs;
  if (common.run.load == 0) common.run.load = user.load;
  common.run.user = {user.path, user.with, user.toolchain, user.kits, user.mirrors, user.places};
  const std::string colour = common.colour.empty() ? user.colour : common.colour;
  if (colour == "always") Screen::colours_when = Screen::Colour::always;
  if (colour == "never") Screen::colours_when = Screen::Colour::never;
}

void settle_tree(Common& common) {
  std::error_code error;
  const std::string here = std::filesystem::current_path(error).string();
  if (error || !common.uses_tree ||
      (common.tree_given &&
       (common.words == nullptr || files::exists(common.run.tree) || files::is_link(common.run.tree) ||
        common.run.tree.starts_with('/')) &&
       !names_a_check(common, here)))
    return;
  const auto& formats = describe::description_formats();
  const std::string around = survey::tree_around(here, formats);
  if (common.tree_given) {
    // A word that is no folder is what the tree is asked for.
    if (!survey::looks_like_a_tree(around, formats)) return;
    common.words->insert(common.words->begin(), common.run.tree);
  }
  common.run.tree = around == here ? "." : files::relative(around, here);
  if (around != here) common.tree_note = around + ", of which this folder is a part ('.' means this folder alone)";
}

void add_common(CLI::App& command, Common& common) {
  command.add_option("--kiln", common.run.kiln, "Output folder; results are in DIR/<label> (default: TREE/kiln)")
      ->type_name("DIR");
  command.add_option("--config", common.run.config, "Another coctilis.toml, read after that of the tree")
      ->type_name("FILE");
  command
      .add_option("--variant", common.run.variant,
                  "release, debug, sanitized, coverage, or one of coctilis.toml; several: NAME,NAME")
      ->type_name("NAME");
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
      ->check(CLI::Range(1, 4096).description(""));
  command.add_option("--load", common.run.load, "Begin no further step while the machine's load is above this")
      ->type_name("N")
      ->check(CLI::PositiveNumber.description(""));
  command.add_flag("--trust", common.run.trust,
                   "Commands of the tree may use the network, and what [sandbox] of its coctilis.toml asks for");
  command.add_flag("--rerun", common.run.rerun,
                   "Read the description again, and run the tree's own scripts, whatever has changed");
  command.add_flag("--install", common.run.install, "Install missing packages (as root, or by sudo), then go on");
  add_output(command, common);
  command.add_flag("--json-lines", common.json_lines,
                   "What happens as it happens: a JSON object a line on standard output");
}

void add_dry_run(CLI::App& command, Common& common, std::optional<Goal> behind, const char* tells) {
  command.add_flag_callback(
      "--dry-run",
      [&common, behind] {
        common.run.only_looks = true;
        common.lists_behind = behind;
      },
      tells);
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

std::string tree_of(const Common& common) {
  std::error_code error;
  const auto real = std::filesystem::canonical(common.run.tree, error);
  return error ? files::absolute(common.run.tree) : real.string();
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

// How many programs and libraries there are, those of members included.
struct Results {
  std::size_t programs = 0;
  std::size_t libraries = 0;
  std::size_t finished = 0;
};

void count_results(const model::Run& run, Results& results) {
  for (const auto& target : run.plan.targets) {
    if (target.output.empty() || !files::exists(target.output)) continue;
    (target.kind == model::TargetKind::program    ? results.programs
     : target.kind == model::TargetKind::finished ? results.finished
                                                  : results.libraries)++;
  }
  for (const auto& member : run.members) count_results(member, results);
}

// What became of the members of a tree, in numbers.
void print_members(Screen& screen, const model::Run& run) {
  if (run.members.empty()) return;
  std::size_t bad = 0;
  std::size_t not_begun = 0;
  for (const auto& member : run.members) {
    if (member.as_member.not_begun)
      ++not_begun;
    else if (member.problem)
      ++bad;
  }
  const auto good = run.members.size() - bad - not_begun;
  std::vector<std::string> parts = {std::to_string(good) + (run.checked ? " passed" : run.built ? " built" : " read")};
  if (bad > 0) parts.push_back(std::to_string(bad) + " failed");
  if (not_begun > 0) parts.push_back(std::to_string(not_begun) + " not built");
  screen.line("members", text::join(parts, ", "), bad + not_begun == 0 ? Tone::name : Tone::bad);
}

// Where the finished programs and libraries are.
void print_results(Screen& screen, const model::Run& run) {
  Results results;
  count_results(run, results);
  const auto& [programs, libraries, finished] = results;
  const std::string kiln = from_here(run.kiln);
  std::vector<std::string> parts;
  if (programs > 0) parts.push_back(text::count(programs, "program") + " in " + kiln + "/bin");
  if (libraries > 0) parts.push_back(text::count(libraries, "library", "libraries") + " in " + kiln + "/lib");
  if (finished > 0) parts.push_back(text::count(finished, "finished result") + " in " + kiln + "/finished");
  if (!parts.empty()) screen.line("built", text::join(parts, ", "));
}

void print_failed_checks(Screen& screen, const model::Run& run) {
  for (const auto& check : run.checks) {
    if (check.verdict != model::Verdict::failed) continue;
    screen.remark("failed", check.name + ": " + check.reason, Tone::bad);
    if (!check.command.empty()) screen.remark("", check.command);
    if (!check.cause.empty()) screen.remark("cause", check.cause, Tone::name);
    if (!check.remedy.empty()) screen.remark("fix", check.remedy, Tone::good);
    for (const auto& line : check.evidence) screen.remark("", line);
    if (!check.output.empty()) {
      std::string shown;
      for (const auto& line : report::telling_lines(check.output)) shown += "  " + line + "\n";
      screen.foreign(shown);
    }
  }
}

// What a build would do.
void print_due(Screen& screen, const model::Run& run) {
  for (const auto& one : run.due->steps) {
    const auto& step = run.plan.steps[one.step];
    screen.line(one.perhaps ? "perhaps" : "would",
                std::string(model::name_of(step.kind)) + " " + step.subject + " (" + one.reason + ")", Tone::plain);
  }
  screen.line("dry run", report::due_sentence(run) + "; nothing was built");
}

// What would be done with what was built.
void print_due_behind(Screen& screen, const model::Run& run, Goal goal) {
  constexpr std::size_t most = 40;
  std::vector<std::string> lines;
  if (goal == Goal::smoke) {
    smoke::Request request;
    request.only = run.options.checks;
    request.toolchain = &run.toolchain;
    request.staged = pipeline::prefix_of_clients(run);
    const auto listed = smoke::list_checks(run.plan, run.settings, request);
    if (!listed) throw Fault(listed.problem());
    for (const auto& check : *listed) lines.push_back(std::string(model::name_of(check.kind)) + " " + check.name);
  } else if (goal == Goal::stage) {
    for (const auto& item : run.plan.install)
      lines.push_back(item.to +
                      (item.kind == model::InstallItem::Kind::folder && !item.from.empty() ? "/ (a folder)" : ""));
  }
  for (std::size_t i = 0; i < lines.size() && i < most; ++i)
    screen.line(goal == Goal::smoke ? "check" : "install", lines[i], Tone::plain);
  if (lines.size() > most) screen.line("", "and " + std::to_string(lines.size() - most) + " more", Tone::plain);
  if (goal == Goal::smoke)
    screen.line("smoke", text::count(lines.size(), "check") + " of what is built now would be made" +
                             (run.due->steps.empty() ? "" : "; there may be others once the steps above have run"));
  if (goal == Goal::stage)
    screen.line("stage", text::count(lines.size(), "rule") + " would install into " +
                             from_here(files::absolute(run.options.prefix)) +
                             (run.project.by_recipes ? "; what recipes install is known when they run" : ""));
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

// What commands of the tree need beside the tree is only theirs when the user says so.
bool asked_to_allow(Screen& screen, const std::string& what) {
  if (screen.quiet() || screen.json() || ::isatty(STDIN_FILENO) == 0 || !screen.is_live()) return false;
  screen.line("sandbox", "commands of this tree ask for " + what, Tone::bad);
  return screen.confirm("allow it for this run?");
}

using pipeline::Goal;

// Shows a run on the screen while it goes on.
class ScreenWatcher : public pipeline::Watcher {
 public:
  ScreenWatcher(Screen& screen, const Common& common, Goal goal)
      : screen_(screen),
        common_(common),
        goal_(goal),
        lists_behind_(common.lists_behind),
        filling_(fill_progress(screen)) {}

  void doing(const std::string& what) override {
    screen_.live(what.empty() ? "" : (stage_.empty() ? what : stage_ + std::string(10 - stage_.size(), ' ') + what));
  }
  void noted(const std::string& text) override { screen_.remark("note", text); }
  void unpacked(const model::Run& run) override {
    screen_.line("unpack", from_here(run.unpacked_from) + " to " + from_here(run.tree));
  }
  void surveyed(const model::Run& run) override {
    stage_ = run.survey.members > 0 ? "members" : "locate";
    line("survey", report::survey_sentence(run.survey));
    if (goal_ == Goal::survey) print_survey(screen_, run);
  }
  void located(const model::Run& run, bool good) override {
    for (const auto& note : run.notes) screen_.remark("note", note);
    if (!run.toolchain.name.empty()) line("locate", report::locate_sentence(run));
    if (goal_ == Goal::locate && common_.changes)
      print_changes(screen_, run);
    else if (goal_ == Goal::locate)
      print_requirements(screen_, run);
    else if (!good)
      print_missing(screen_, run);
    for (const auto& remark : run.project.warnings)
      screen_.remark("note", (remark.place.file.empty() ? "" : remark.place.text() + ": ") + remark.what +
                                 (remark.remedy.empty() ? "" : "; " + remark.remedy));
    if (good && screen_.verbosity() > 0) {
      for (const auto& message : run.project.messages) screen_.remark("says", message);
    }
    if (good && goal_ == Goal::options) print_options(screen_, run);
  }
  void planned(const model::Run& run, bool good) override {
    if (!good) return print_missing(screen_, run);
    line("plan", report::plan_sentence(run));
    if (!run.options_in_force.empty()) line("options", report::options_sentence(run));
    for (const auto& note : run.plan.notes) screen_.remark("note", note);
    if (goal_ == Goal::plan && !run.options.only_looks) print_plan(screen_, run);
  }
  void looked(const model::Run& run) override {
    print_due(screen_, run);
    if (lists_behind_) print_due_behind(screen_, run, *lists_behind_);
  }
  void built(const model::Run& run, bool good) override {
    if (run.built) line("build", report::build_sentence(run), run.outcome.failed > 0 ? Tone::bad : Tone::name);
    for (const auto& text : report::left_out_sentences(run)) screen_.remark("left out", text);
    for (const auto& text : report::finish_sentences(run)) screen_.remark("finish", text);
    if (run.outcome.ignored > 0) screen_.remark("ignored", report::ignored_sentence(run));
    for (const auto& note : run.outcome.notes) screen_.remark("note", note);
    if (good) stage_ = "smoke";
  }
  void entered(const smoke::Entered& check) override {
    screen_.live("");
    for (const auto& words : check.runs) screen_.remark("runs", words);
    if (!check.beside.empty()) screen_.remark("beside", text::join(check.beside, ", "));
    screen_.remark("shell", check.command.argv.front() + " in " + check.command.folder + "; 'exit' ends it");
    const Ended ended = run_for_person(check.command, check.look_beside);
    if (ended.how == Ended::How::not_started) screen_.remark("shell", ended.text(), Tone::bad);
  }
  void check_ended(const model::Check& check) override {
    doing(std::string(model::name_of(check.verdict)) + ": " + text::printable_line(check.name));
    if (screen_.verbosity() > 0) screen_.remark(model::name_of(check.verdict), check.name + ": " + check.reason);
  }
  void checked(const model::Run& run, bool good) override {
    if (run.checked) line("smoke", report::smoke_sentence(run), good ? Tone::name : Tone::bad);
    for (const auto& check : run.checks) {
      if (check.verdict == model::Verdict::skipped) {
        screen_.remark("skipped", check.name + ": " + check.reason);
        if (!check.remedy.empty()) screen_.remark("fix", check.remedy, Tone::good);
      }
    }
    for (const auto& text : report::output_sentences(run)) screen_.remark("output", text);
  }
  void staged(const model::Run& run) override {
    line("stage", report::stage_sentence(run));
    if (goal_ == Goal::stage) print_staged(screen_, run);
  }
  void member_begun(const model::Run& member) override {
    // Of many members a line each is enough, unless what they have is what was asked for.
    brief_ = (goal_ == Goal::build || goal_ == Goal::smoke) && screen_.verbosity() == 0;
    line("member", member.as_member.name, Tone::good);
    stage_ = "survey";
  }
  void member_ended(const model::Run& member) override {
    brief_ = false;
    stage_ = "members";
    screen_.line("member", report::member_sentence(member), member.problem ? Tone::bad : Tone::name);
  }
  bool asks_to_fill(const model::Run& run) override { return asked_to_fill(screen_, run); }
  bool asks_to_allow(const std::string& what) override { return asked_to_allow(screen_, what); }
  survey::FillObserver& filling() override { return *filling_; }
  engine::Observer& building(const model::Run& run) override {
    building_ = std::make_unique<BuildProgress>(screen_, run.plan);
    return *building_;
  }

  // The first error comes last and whole: it is what the user looks for.
  static void print_errors(Screen& screen, const model::Run& run) {
    screen.problem(*run.problem);
    print_failures(screen, run);
    print_failed_checks(screen, run);
  }

 private:
  // What a stage has come to.
  void line(const std::string& name, const std::string& text, Tone tone = Tone::name) {
    if (!brief_) screen_.line(name, text, tone);
  }

  Screen& screen_;
  const Common& common_;
  const Goal goal_;
  const std::optional<Goal> lists_behind_;
  std::string stage_;   // whose live line it is
  bool brief_ = false;  // what is told is of a member that gets one line
  std::unique_ptr<survey::FillObserver> filling_;
  std::unique_ptr<BuildProgress> building_;
};

}  // namespace

int run_stages(Common& common, Goal goal, Screen& screen, model::Run& run) {
  if (common.options) goal = Goal::options;
  // Nothing comes of it that could be recorded.
  if (run.options.only_looks && goal > Goal::plan) goal = Goal::plan;
  run.options.colours = screen.colours();
  ScreenWatcher watcher(screen, common, goal);
  pipeline::Wish wish;
  wish.goal = goal;
  wish.fill = common.fill;
  wish.may_repeat = !common.json;
  wish.on_terminal = ::isatty(STDIN_FILENO) == 1;
  std::optional<EventLines> events;
  if (common.json_lines) events.emplace(watcher);
  if (events) events->begun(run, goal);
  pipeline::bring_up(run, wish, events ? static_cast<pipeline::Watcher&>(*events) : watcher);
  if (events) events->ended(run, run.number > 0 ? record::folder(run) + "/run.json" : "");
  if (run.number > 0) {
    if (run.built) print_results(screen, run);
    screen.line("record", from_here(record::folder(run) + "/report.html"));
  }
  print_members(screen, run);
  bool told = false;
  for (const auto& member : run.members) {
    if (!member.problem || member.as_member.not_begun) continue;
    ScreenWatcher::print_errors(screen, member);
    told = true;
  }
  if (run.problem && !told) {
    ScreenWatcher::print_errors(screen, run);
  } else if (!run.problem && goal >= Goal::build)
    screen.line("done",
                (goal == Goal::stage ? "installed, "
                 : run.checked       ? "passed, "
                                     : "built, ") +
                    text::duration(run.seconds),
                Tone::good);
  if (common.json) {
    switch (goal) {
      case Goal::survey: screen.text(report::survey_json(run)); break;
      case Goal::locate:
      case Goal::options: screen.text(report::locate_json(run)); break;
      case Goal::plan: screen.text(run.options.only_looks ? report::due_json(run) : report::plan_json(run)); break;
      case Goal::build:
      case Goal::stage:
      case Goal::smoke: screen.text(report::run_json(run)); break;
    }
  }
  return run.exit_code();
}

void print_table(Screen& screen, const std::string& name, const std::vector<std::vector<std::string>>& table) {
  std::vector<std::size_t> widths;
  for (const auto& row : table) {
    widths.resize(std::max(widths.size(), row.size()));
    for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], text::columns(row[i]));
  }
  for (const auto& row : table) {
    std::string line;
    for (std::size_t i = 0; i < row.size(); ++i)
      line += row[i] + (i + 1 < row.size() ? std::string(widths[i] - text::columns(row[i]) + 3, ' ') : "");
    if (&row == &table.front())
      screen.line(name, line);
    else
      screen.under(line, Tone::plain);
  }
}

namespace {

// The same tree in one variant after the other; what came of them side by side at the end.
int run_variants(Common& common, Goal goal, const std::vector<std::string>& names, Screen& screen) {
  std::vector<model::Run> runs;
  int exit = 0;
  if (common.json) screen.text("[\n");
  for (const auto& name : names) {
    if (common.json && !runs.empty()) screen.text(",\n");
    common.run.variant = name;
    runs.push_back(start_run(common));
    screen.line("variant", name, Tone::good);
    const int one = run_stages(common, goal, screen, runs.back());
    if (exit == 0) exit = one;
    if (one > 128 || one == static_cast<int>(Exit::usage)) break;
  }
  if (common.json) {
    screen.text("]\n");
    return exit;
  }
  if (goal < Goal::build) return exit;
  print_table(screen, "variants", report::variants_table(runs));
  return exit;
}

}  // namespace

int run_stages(Common& common, Goal goal) {
  if (common.json && common.json_lines)
    throw Fault({Exit::usage,
                 {},
                 "--json and --json-lines both want standard output",
                 {},
                 "one document at the end, or a line as things happen: leave one of them out",
                 {}});
  Screen::tree = tree_of(common);
  Screen screen(common.plain, common.quiet, common.verbosity, common.json || common.json_lines);
  if (!common.tree_note.empty()) screen.line("tree", common.tree_note);
  std::vector<std::string> variants;
  for (const auto& name : text::split(common.run.variant, ',')) {
    if (!name.empty() && std::find(variants.begin(), variants.end(), name) == variants.end()) variants.push_back(name);
  }
  if (variants.size() > 1) return run_variants(common, goal, variants, screen);
  if (variants.size() == 1) common.run.variant = variants.front();
  model::Run run = start_run(common);
  return run_stages(common, goal, screen, run);
}

}  // namespace coctilis::app
