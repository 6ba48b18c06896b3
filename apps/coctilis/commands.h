// The commands of the program. Each adds itself to the command line; a new one is a file and a line in the table of
// main.cpp.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "model/run.h"
#include "pipeline/bringup.h"
#include "screen.h"
#include "survey/user_settings.h"

namespace coctilis::app {

// What the options say that all commands share.
struct Common {
  model::RunOptions run;
  bool json = false;
  bool json_lines = false;
  bool fill = false;     // survey --fill
  bool changes = false;  // locate --changes
  bool options = false;  // plan --options
  bool write = false;    // plan: the targets that were found go into coctilis.toml
  // A dry run tells what would be done behind the build, too, as this goal does.
  std::optional<pipeline::Goal> lists_behind;
  std::vector<std::string> compared;  // survey --compare
  bool plain = false;
  std::string colour;         // --colour; empty: not said
  survey::UserSettings user;  // what the user's file says
  bool uses_user_settings = false;
  bool quiet = false;
  int verbosity = 0;
  bool uses_tree = false;                     // the command works on a tree
  bool tree_given = false;                    // the command line names the tree
  std::vector<std::string>* words = nullptr;  // what the command is asked for besides; null: it takes no words
  std::string tree_note;                      // which tree is meant, where that is not this folder; else empty
  std::string command_line;
  std::vector<std::string> argv;
  bool watches = false;                    // --watch
  std::vector<std::string> behind_dashes;  // of env: what stands behind --, which is no option or tree of its own
  std::function<int()> chosen;             // what the chosen command does; gives the exit code
};

// The options of every command that works on a tree.
void add_common(CLI::App& command, Common& common);
// `--dry-run`: what would be done is told, and not done; `behind`: also what this goal would do behind the build.
void add_dry_run(CLI::App& command, Common& common, std::optional<pipeline::Goal> behind, const char* tells);
// `words`: where a word goes that stands in the place of the tree and is none (may be null: it is an error).
void add_tree(CLI::App& command, Common& common, std::vector<std::string>* words = nullptr);
// Which tree is meant, once the command line is read: that which was named, or the one around the working folder.
void settle_tree(Common& common);
// What the user's file says goes where the command line says nothing. Throws Fault when the file is wrong.
void settle_user_settings(Common& common);
void add_output(CLI::App& command, Common& common);

// Each adds one command.
void add_bringup(CLI::App& app, Common& common);
void add_survey(CLI::App& app, Common& common);
void add_locate(CLI::App& app, Common& common);
void add_plan(CLI::App& app, Common& common);
void add_build(CLI::App& app, Common& common);
void add_smoke(CLI::App& app, Common& common);
void add_stage(CLI::App& app, Common& common);
void add_why(CLI::App& app, Common& common);
void add_report(CLI::App& app, Common& common);
void add_figures(CLI::App& app, Common& common);
void add_settings(CLI::App& app, Common& common);
// What this program is called for by shells.
void add_complete(CLI::App& app, Common& common);
void add_manual(CLI::App& app, Common& common);
void add_env(CLI::App& app, Common& common);
void add_clean(CLI::App& app, Common& common);
void add_demo(CLI::App& app, Common& common);
void add_run_script(CLI::App& app, Common& common);
void add_bring_up_member(CLI::App& app, Common& common);
void add_run_operation(CLI::App& app, Common& common);
void add_run_watched(CLI::App& app, Common& common);
// What this program calls itself for: to ask a service something in the network that it is in.
void add_ask_service(CLI::App& app, Common& common);
void add_look_at_screen(CLI::App& app, Common& common);
void add_run_confined(CLI::App& app, Common& common);

// ---- stages with what they print -----------------------------------------------------------------------------------

using pipeline::Goal;
// Runs the stages up to `goal`, printing a line for each; keeps a record when something was built.
[[nodiscard]] int run_stages(Common& common, Goal goal);
// The same, with a screen that is there already.
[[nodiscard]] int run_stages(Common& common, Goal goal, Screen& screen, model::Run& run);

// The absolute path of the tree that the command line names, links followed.
[[nodiscard]] std::string tree_of(const Common& common);

// A path as it is shown: from here where it lies below, else whole.
[[nodiscard]] std::string from_here(const std::string& path);

// A start with the options of the command line and the time.
[[nodiscard]] model::Run start_run(const Common& common);

// A table: the first row behind `name`, the others under it.
void print_table(Screen& screen, const std::string& name, const std::vector<std::vector<std::string>>& table);

// Details of a stage, as the command of that name prints them.
void print_survey(Screen& screen, const model::Run& run);
void print_requirements(Screen& screen, const model::Run& run);
void print_changes(Screen& screen, const model::Run& run);
// Shows how filling submodules and sources goes on: a line for each, and a live line.
[[nodiscard]] std::unique_ptr<survey::FillObserver> fill_progress(Screen& screen);
void print_missing(Screen& screen, const model::Run& run);
void print_plan(Screen& screen, const model::Run& run);
void print_options(Screen& screen, const model::Run& run);
void print_staged(Screen& screen, const model::Run& run);

}  // namespace coctilis::app
