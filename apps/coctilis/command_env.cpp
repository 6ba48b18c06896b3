// env: the environment in which the results run, for a shell, or for one command.
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "commands.h"
#include "record/environment.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

int run_in(const record::EnvironmentOfResults& environment, const std::vector<std::string>& words, Screen& screen) {
  Command command;
  command.argv = words;
  for (const auto& [name, folders] : environment.variables) {
    const char* own = std::getenv(name.c_str());
    std::string value = text::join(folders, ":");
    if (own != nullptr && *own != '\0') value += std::string(":") + own;
    if (name == "PATH" && words.front().find('/') == std::string::npos) {
      // Those of the tree come first, as they do for what it starts.
      if (const std::string program = find_program(words.front(), value); !program.empty())
        command.argv.front() = program;
    }
    command.environment[name] = std::move(value);
  }
  const Ended ended = run_on_terminal(command);
  if (ended.how == Ended::How::exited) return ended.code;
  if (ended.how == Ended::How::signalled) return 128 + ended.code;
  screen.problem({Exit::usage,
                  {},
                  "'" + text::printable_line(words.front()) + "' cannot be started",
                  ended.text(),
                  "name a program of the tree, or one on PATH",
                  {}});
  return static_cast<int>(Exit::usage);
}

int show_environment(Common& common) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  const std::string root = survey::kiln_root(tree_of(common), common.run.kiln);
  const auto environment = record::environment_of_results(root, common.run.variant);
  if (!environment) {
    screen.problem(environment.problem());
    return static_cast<int>(environment.problem().exit);
  }
  if (!common.behind_dashes.empty()) return run_in(*environment, common.behind_dashes, screen);
  if (common.json) {
    nlohmann::ordered_json out = {{"kiln", environment->kiln}, {"before", nlohmann::ordered_json::object()}};
    for (const auto& [name, folders] : environment->variables) out["before"][name] = folders;
    screen.text(out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
    return 0;
  }
  // Read by any POSIX shell: eval "$(coctilis env)".
  for (const auto& [name, folders] : environment->variables)
    screen.text(name + "=" + text::shell_quote(text::join(folders, ":")) + "${" + name + ":+\":$" + name +
                "\"}\nexport " + name + "\n");
  return 0;
}

}  // namespace

void add_env(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand(
      "env", "The environment in which the results run, for a shell; or runs a command there: env -- COMMAND ...");
  add_tree(*command, common);
  command->add_option("--kiln", common.run.kiln, "Output folder (default: TREE/kiln)")->type_name("DIR");
  command->add_option("--variant", common.run.variant, "Of the newest run of this variant")->type_name("NAME");
  add_output(*command, common);
  command->callback([&common] { common.chosen = [&common] { return show_environment(common); }; });
}

}  // namespace coctilis::app
