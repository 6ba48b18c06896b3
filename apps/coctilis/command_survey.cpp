// survey: what is in the tree, what describes it, is it whole.
#include <fmt/format.h>

#include "base/text.h"
#include "commands.h"
#include "pipeline/pipeline.h"
#include "report/comparison.h"
#include "report/report.h"
#include "report/sentences.h"

namespace coctilis::app {

void print_survey(Screen& screen, const model::Run& run) {
  const auto& s = run.survey;
  if (!s.languages.empty()) {
    screen.line("languages", fmt::format("{:<16} {:>7} {:>9} {:>9} {:>9}", "", "files", "code", "comment", "blank"));
    for (const auto& l : s.languages) {
      screen.under(fmt::format("{:<16} {:>7} {:>9} {:>9} {:>9}", text::clip(l.language, 16), text::grouped(l.files),
                               text::grouped(l.code), text::grouped(l.comment), text::grouped(l.blank)),
                   Tone::plain);
    }
  }
  // Where the code lies, when that is not all in one place.
  if (s.lines_by_folder.size() > 1) {
    const std::size_t most = screen.verbosity() > 0 ? s.lines_by_folder.size() : 8;
    screen.line("folders", fmt::format("{:<24} {:>7} {:>9}", "", "files", "code"));
    for (std::size_t i = 0; i < s.lines_by_folder.size(); ++i) {
      const auto& folder = s.lines_by_folder[i];
      if (i == most && s.lines_by_folder.size() > most + 1) {
        screen.under("and " + std::to_string(s.lines_by_folder.size() - i) + " more (-v lists all)");
        break;
      }
      screen.under(fmt::format("{:<24} {:>7} {:>9}", text::clip(folder.folder, 24), text::grouped(folder.files),
                               text::grouped(folder.code)),
                   Tone::plain);
    }
  }
  for (const auto& d : s.descriptions) {
    screen.line(d.followed ? "follows" : "leaves", d.path + ": " + d.reason, d.followed ? Tone::good : Tone::soft);
  }
  for (std::size_t i = 0; i < s.entry_points.size(); ++i) {
    if (i == 12 && screen.verbosity() == 0 && s.entry_points.size() > 14) {
      screen.under("and " + std::to_string(s.entry_points.size() - i) + " more (-v lists all)");
      break;
    }
    if (i == 0)
      screen.line("entry", s.entry_points[i].place.text());
    else
      screen.under(s.entry_points[i].place.text(), Tone::plain);
  }
  bool fillable = false;
  for (const auto& m : s.submodules) {
    const std::string name = m.is_source() ? "source" : "submodule";
    const std::string changed = m.changed ? "; has local changes" : "";
    switch (m.state) {
      case model::SubmoduleState::empty:
        fillable = fillable || !m.pinned.empty();
        screen.line(name,
                    m.path + ": empty; " +
                        (m.pinned.empty() ? "no repository data say which revision is wanted; URL "
                                          : "wanted is revision " + m.pinned.substr(0, 12) + " of ") +
                        (m.url.empty() ? "unknown" : m.url),
                    Tone::bad);
        break;
      case model::SubmoduleState::pinned:
        screen.line(name, m.path + ": at the pinned revision, " + m.actual.substr(0, 12) + changed);
        break;
      case model::SubmoduleState::elsewhere:
        fillable = true;
        screen.line(name, m.path + ": at " + m.actual.substr(0, 12) + ", wanted is " + m.pinned.substr(0, 12) + changed,
                    Tone::bad);
        break;
      case model::SubmoduleState::unknown:
        screen.line(name, m.path + ": there, but its revision cannot be told");
        break;
    }
  }
  if (fillable && run.filled.empty())
    screen.under("to bring them in: coctilis survey --fill " + text::shell_quote(run.options.tree), Tone::plain);
  for (const auto& h : s.hazards)
    screen.line("hazard", h.kind + ": " + h.path + (h.detail.empty() ? "" : " (" + h.detail + ")"), Tone::bad);
  if (s.members > 0)
    screen.line("members",
                text::join(run.settings.components, ", ") + ": in this order, " +
                    (s.parts.empty() ? "by coctilis.toml" : "as nothing above them says how the tree is built"));
  if (s.members == 0 && s.followed() == nullptr)
    screen.line(
        "note",
        s.descriptions.empty() ? "nothing here says how it is built" : "no description here can be followed yet",
        Tone::bad);
}

namespace {

class FillProgress : public survey::FillObserver {
 public:
  explicit FillProgress(Screen& screen) : screen_(screen) {}
  void ended(const survey::Filled& one) override {
    switch (one.outcome) {
      case survey::FillOutcome::filled:
        screen_.line("filled", one.path + ": revision " + one.revision.substr(0, 12) + " from " + one.from, Tone::good);
        break;
      case survey::FillOutcome::kept:
        screen_.line("kept", one.path + ": " + (one.reason.empty() ? "at the pinned revision" : one.reason),
                     Tone::soft);
        break;
      case survey::FillOutcome::refused:
      case survey::FillOutcome::failed:
        screen_.complaint(model::name_of(one.outcome), one.path + ": " + one.reason);
        if (!one.remedy.empty()) screen_.complaint("", one.remedy, Tone::plain);
        break;
    }
  }
  void progress(std::size_t done, std::size_t known, const std::vector<survey::Transfer>& running) override {
    std::string line = fmt::format("fill      {} of {}", done, known);
    survey::Transfer sum;
    std::vector<std::string> names;
    for (const auto& one : running) {
      sum.objects += one.objects;
      sum.objects_in_all += one.objects_in_all;
      sum.bytes += one.bytes;
      names.push_back(text::printable_line(one.path));
    }
    if (sum.objects_in_all > 0)
      line += fmt::format(", {} of {} objects, {}", text::grouped(sum.objects), text::grouped(sum.objects_in_all),
                          text::size(sum.bytes));
    if (!names.empty()) line += ": " + text::join(names, ", ");
    screen_.live(line);
  }

 private:
  Screen& screen_;
};

// The survey of each tree in JSON, or all in one table.
int compare_trees(const Common& common) {
  if (common.fill)
    throw Fault({Exit::usage, {}, "--compare only looks, and --fill changes a tree", {}, "one after the other", {}});
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  std::vector<std::string> trees = {common.run.tree};
  trees.insert(trees.end(), common.compared.begin(), common.compared.end());
  std::vector<model::Survey> surveys;
  std::string documents;
  for (const auto& tree : trees) {
    model::Run run = start_run(common);
    run.options.tree = tree;
    pipeline::Session session;
    const auto unpacked = [](std::uint64_t) {};
    if (!pipeline::open_tree(run, unpacked) || !pipeline::settings(run) || !pipeline::survey(run, session)) {
      screen.problem(*run.problem);
      return run.exit_code();
    }
    documents += (documents.empty() ? "[\n" : ",\n") + report::survey_json(run);
    surveys.push_back(std::move(run.survey));
  }
  if (common.json)
    screen.text(documents + "]\n");
  else
    print_table(screen, "trees", report::trees_table(surveys));
  return 0;
}

}  // namespace

std::unique_ptr<survey::FillObserver> fill_progress(Screen& screen) { return std::make_unique<FillProgress>(screen); }

void add_survey(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("survey", "What is in the tree, what describes it, is it whole");
  add_tree(*command, common);
  command->add_option("--config", common.run.config, "Another coctilis.toml, read after that of the tree")
      ->type_name("FILE");
  command->add_flag("--fill", common.fill, "Bring in submodules and sources that are missing, at the pinned revision");
  command
      ->add_option("--with", common.run.prefixes,
                   "A folder with copies of the repositories, looked at first (repeatable)")
      ->type_name("FOLDER")
      ->take_all()
      ->allow_extra_args(false);
  command->add_option("-j,--jobs", common.run.jobs, "Repositories at once, 4 at most")
      ->type_name("N")
      ->check(CLI::Range(1, 4096).description(""));
  add_output(*command, common);
  command->add_option("--compare", common.compared, "Set the tree side by side with this one (repeatable)")
      ->type_name("TREE")
      ->take_all()
      ->allow_extra_args(false);
  command->callback([&common] {
    common.chosen = [&common] {
      return common.compared.empty() ? run_stages(common, Goal::survey) : compare_trees(common);
    };
  });
}

}  // namespace coctilis::app
