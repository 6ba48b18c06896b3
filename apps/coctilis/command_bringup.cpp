// bringup: the whole job.
#include "commands.h"
#include "watching.h"

namespace coctilis::app {

void add_bringup(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("bringup", "The whole job: from the tree to checked programs");
  add_tree(*command, common);
  add_common(*command, common);
  add_dry_run(*command, common, std::nullopt, "Tell which steps would run and why; build nothing");
  command->add_flag("--past-failures", common.run.keep_going, "After a failed step go on with what does not need it");
  command->add_flag("--watch", common.watches, "Do it again whenever a file of the tree changes, until Ctrl-C");
  command->callback([&common] {
    common.chosen = [&common] {
      return common.watches ? run_at_every_change(common) : run_stages(common, Goal::smoke);
    };
  });
}

}  // namespace coctilis::app
