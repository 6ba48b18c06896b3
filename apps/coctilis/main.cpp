// The program: reads the command line and hands over to the chosen command.
#include <csignal>
#include <cstdio>
#include <cstring>

#include "answer_make.h"
#include "base/process.h"
#include "base/text.h"
#include "base/version.h"
#include "commands.h"

namespace {

void on_signal(int number) {
  if (coctilis::interrupted_by != 0) std::_Exit(128 + number);  // asked twice: at once
  coctilis::interrupted_by = number;
}

// Results that could not be written are none that anybody has. Who only reads the beginning has what they wanted.
int ended(int code) {
  using coctilis::app::Screen;
  Screen::flush(stdout);
  if (Screen::output_error == 0 || Screen::output_error == EPIPE || code != 0) return code;
  Screen(true, false, 0, false)
      .problem({coctilis::Exit::kiln,
                {},
                "what this command has to say cannot be written",
                std::strerror(Screen::output_error),
                "give its output a place that has room",
                {}});
  return static_cast<int>(coctilis::Exit::kiln);
}

}  // namespace

int main(int argc, char** argv) {
  using coctilis::app::Common;
  struct sigaction action {};
  action.sa_handler = on_signal;
  for (const int number : {SIGINT, SIGTERM, SIGHUP}) ::sigaction(number, &action, nullptr);
  std::signal(SIGPIPE, SIG_IGN);

  if (coctilis::app::called_as_make(argv[0])) return coctilis::app::answer_make(argc, argv);
  Common common;
  CLI::App app{
      "Brings up a source tree: finds out how it is built, finds what it needs, compiles and links every target, and "
      "smoke-tests what came out.",
      "coctilis"};
  app.set_version_flag("--version", std::string("coctilis ") + coctilis::version, "Shows the version and ends");
  app.require_subcommand(1);
  auto layout = std::make_shared<CLI::Formatter>();
  for (const auto& [word, ours] : {std::pair{"SUBCOMMANDS", "commands"},
                                   {"SUBCOMMAND", "COMMAND"},
                                   {"OPTIONS", "options"},
                                   {"Positionals", "Operands"},
                                   {"TEXT", ""}})
    layout->label(word, ours);
  layout->column_width(26);
  app.formatter(layout);
  app.set_help_flag("-h,--help", "Show this help and end");
  app.footer(
      "Exit codes: 0 done; 2 wrong command line or coctilis.toml; 3 requirements missing; 4 description not "
      "understood;\n5 a step failed; 6 a check failed; 7 the kiln is in use or cannot be written; 70 a defect in "
      "Coctilis.");
  for (const auto add : {coctilis::app::add_bringup,        coctilis::app::add_survey,
                         coctilis::app::add_locate,         coctilis::app::add_plan,
                         coctilis::app::add_build,          coctilis::app::add_smoke,
                         coctilis::app::add_stage,          coctilis::app::add_why,
                         coctilis::app::add_report,         coctilis::app::add_figures,
                         coctilis::app::add_settings,       coctilis::app::add_complete,
                         coctilis::app::add_manual,         coctilis::app::add_env,
                         coctilis::app::add_clean,          coctilis::app::add_demo,
                         coctilis::app::add_run_script,     coctilis::app::add_run_operation,
                         coctilis::app::add_run_watched,    coctilis::app::add_run_confined,
                         coctilis::app::add_ask_service,    coctilis::app::add_look_at_screen,
                         coctilis::app::add_bring_up_member}) {
    add(app, common);
  }
  for (auto* command : app.get_subcommands({})) {
    if (!command->get_group().empty()) command->group("Commands");
  }
  common.argv.assign(argv, argv + argc);
  for (int i = 0; i < argc; ++i) common.command_line += (i > 0 ? " " : "") + coctilis::text::shell_quote(argv[i]);
  // What env is to run has options of its own.
  if (argc > 1 && std::strcmp(argv[1], "env") == 0) {
    for (int i = 2; i < argc; ++i) {
      if (std::strcmp(argv[i], "--") != 0) continue;
      common.behind_dashes.assign(argv + i + 1, argv + argc);
      argc = i;
    }
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp&) {
    coctilis::app::Screen::put(stdout, app.help());
    return ended(0);
  } catch (const CLI::CallForVersion&) {
    coctilis::app::Screen::put(stdout, std::string("coctilis ") + coctilis::version + "\n");
    return ended(0);
  } catch (const CLI::ParseError& error) {
    coctilis::app::Screen screen(false, false, 0, false);
    const auto chosen = app.get_subcommands();
    const bool hidden = !chosen.empty() && chosen.front()->get_group().empty();
    screen.problem({coctilis::Exit::usage,
                    {},
                    coctilis::text::printable_line(error.what()),
                    {},
                    chosen.empty() || hidden
                        ? "'coctilis --help' lists commands and options"
                        : "'coctilis " + chosen.front()->get_name() + " --help' lists what it takes",
                    {}});
    return static_cast<int>(coctilis::Exit::usage);
  }
  try {
    // What the program calls itself for has what it needs on its command line.
    common.uses_user_settings = !app.get_subcommands().front()->get_group().empty();
    coctilis::app::settle_user_settings(common);
    coctilis::app::settle_tree(common);
    return ended(common.chosen ? common.chosen() : 0);
  } catch (const coctilis::Fault& fault) {
    coctilis::app::Screen screen(common.plain, false, 0, false);
    screen.problem(fault.problem());
    return static_cast<int>(fault.problem().exit);
  } catch (const std::exception& error) {
    coctilis::app::Screen screen(common.plain, false, 0, false);
    screen.problem(coctilis::defect("the command line", error.what()));
    return static_cast<int>(coctilis::Exit::defect);
  }
}
