// demo: writes the demo tree and brings it up.
#include "commands.h"
#include "demo/demo.h"

namespace coctilis::app {

void add_demo(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("demo", "Writes the Brickyard tree to DIR (default: brickyard) and brings it up");
  auto folder = std::make_shared<std::string>("brickyard");
  command->add_option("DIR", *folder, "A folder that does not exist yet");
  add_common(*command, common);
  command->callback([&common, folder] {
    common.chosen = [&common, folder] {
      Screen screen(common.plain, common.quiet, common.verbosity, common.json);
      const auto tree = demo::write_tree(*folder);
      if (!tree) {
        screen.problem(tree.problem());
        return static_cast<int>(tree.problem().exit);
      }
      screen.line("demo", "wrote the Brickyard tree to " + *tree);
      common.run.tree = *tree;
      model::Run run = start_run(common);
      return run_stages(common, Goal::smoke, screen, run);
    };
  });
}

}  // namespace coctilis::app
