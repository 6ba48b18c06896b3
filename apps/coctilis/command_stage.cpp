// stage: builds, then installs into a prefix.
#include "base/files.h"
#include "commands.h"

namespace coctilis::app {

void add_stage(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("stage", "Builds, then installs what the description installs into a prefix");
  add_tree(*command, common);
  command->add_option("--prefix", common.run.prefix, "The folder to install into; it is made when it is not there")
      ->type_name("DIR")
      ->required();
  add_dry_run(*command, common, Goal::stage, "Tell which steps would run and what would be installed; do nothing");
  add_common(*command, common);
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::stage); }; });
}

void print_staged(Screen& screen, const model::Run& run) {
  const auto& staged = run.staged;
  for (const auto& file : staged.files) screen.under(file, Tone::plain);
  for (const auto& program : staged.starters)
    screen.remark("note",
                  program + " is a script that starts the program in libexec, and says where its libraries are");
  for (const auto& place : staged.outside)
    screen.remark("note", place + " lies outside the prefix and is not installed");
  for (const auto& rule : run.plan.not_installed)
    screen.remark("note", rule.place.text() + ": install(" + rule.name + ") is not followed");
}

}  // namespace coctilis::app
