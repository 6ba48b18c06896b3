// report: where the report of a run is, or its record.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "record/record.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

int show_report(Common& common, const int& number) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  const auto fail = [&](const std::string& what, const std::string& remedy) {
    screen.problem({Exit::usage, {}, what, {}, remedy, {}});
    return static_cast<int>(Exit::usage);
  };
  const std::string root = survey::kiln_root(tree_of(common), common.run.kiln);
  const std::string best = record::newest_folder(root, number, common.run.variant);
  if (best.empty())
    return fail(number > 0 ? "there is no record of run " + std::to_string(number) + " in '" + root + "'"
                           : "there is no record in '" + root + "'",
                "'coctilis bringup' makes one");
  if (common.json) {
    screen.text(files::read(best + "/run.json").value_or("{}\n"));
    return 0;
  }
  screen.text(text::printable(files::read(best + "/summary.txt").value_or("")));
  screen.line("page", best + "/report.html");
  screen.line("record", best + "/run.json");
  screen.line("log", best + "/log");
  return 0;
}

}  // namespace

void add_report(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("report", "The report of a run: its summary, and where its page and record are");
  add_tree(*command, common);
  auto number = std::make_shared<int>(0);
  command->add_option("--run", *number, "The run, by its number (default: the newest)")
      ->type_name("N")
      ->check(CLI::PositiveNumber);
  command->add_option("--kiln", common.run.kiln, "Output folder (default: TREE/kiln)")->type_name("DIR");
  command->add_option("--variant", common.run.variant, "Only runs of this variant")->type_name("NAME");
  add_output(*command, common);
  command->callback([&common, number] { common.chosen = [&common, number] { return show_report(common, *number); }; });
}

}  // namespace coctilis::app
