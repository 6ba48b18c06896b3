// build: compiles every target, or those named and what they need.
#include "commands.h"
#include "watching.h"

namespace coctilis::app {

void add_build(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("build", "Compiles every target, or those named and what they need");
  add_tree(*command, common, &common.run.targets);
  command->add_option("TARGET", common.run.targets, "Targets, or files that steps make");
  add_common(*command, common);
  add_dry_run(*command, common, std::nullopt, "Tell which steps would run and why; build nothing");
  command->add_flag("--past-failures", common.run.keep_going, "After a failed step go on with what does not need it");
  command->add_flag("--watch", common.watches, "Do it again whenever a file of the tree changes, until Ctrl-C");
  command->callback([&common] {
    common.chosen = [&common] {
      return common.watches ? run_at_every_change(common) : run_stages(common, Goal::build);
    };
  });
}

}  // namespace coctilis::app
