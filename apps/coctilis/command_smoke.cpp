// smoke: runs the checks, all or those named.
#include "commands.h"

namespace coctilis::app {

void add_smoke(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("smoke", "Runs the checks: loads, starts, [[smoke]], declared tests");
  add_tree(*command, common, &common.run.checks);
  command->add_option("CHECK", common.run.checks, "Checks by name, or programs");
  add_common(*command, common);
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::smoke); }; });
}

}  // namespace coctilis::app
