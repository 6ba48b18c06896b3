// demo: writes a demo tree and brings it up.
#include "commands.h"
#include "demo/demo.h"

namespace coctilis::app {

void add_demo(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("demo", "Writes a tree of the Brickyard to DIR (default: its name) and brings it up");
  struct Words {
    std::string folder;
    std::string tree = demo::trees().front().name;
    bool list = false;
  };
  auto words = std::make_shared<Words>();
  command->add_option("DIR", words->folder, "A folder that does not exist yet");
  command->add_option("--tree", words->tree, "Which tree (default: " + words->tree + ")");
  command->add_flag("--list", words->list, "The trees that there are, and what each shows");
  add_common(*command, common);
  command->callback([&common, words] {
    common.chosen = [&common, words] {
      Screen screen(common.plain, common.quiet, common.verbosity, common.json);
      if (words->list) {
        for (const auto& one : demo::trees()) screen.line("tree", one.name + ": " + one.shows);
        return 0;
      }
      const auto tree = demo::write_tree(words->tree, words->folder.empty() ? words->tree : words->folder);
      if (!tree) {
        screen.problem(tree.problem());
        return static_cast<int>(tree.problem().exit);
      }
      screen.line("demo", "wrote the tree " + words->tree + " to " + *tree);
      common.run.tree = *tree;
      return run_stages(common, Goal::smoke);
    };
  });
}

}  // namespace coctilis::app
