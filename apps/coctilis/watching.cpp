#include "watching.h"

#include <ctime>

#include "base/files.h"
#include "base/own_program.h"
#include "base/process.h"
#include "base/text.h"
#include "base/tree_watch.h"
#include "survey/survey.h"

namespace coctilis::app {

int run_at_every_change(Common& common) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  const std::string tree = tree_of(common);
  if (!files::is_folder(tree))
    throw Fault({Exit::usage,
                 {},
                 "'" + text::printable_line(common.run.tree) + "' is no folder that could be watched",
                 {},
                 "name the folder of a tree, or leave --watch out",
                 {}});
  // What this program writes itself is no change.
  TreeWatch watch(tree, {survey::kiln_root(tree, common.run.kiln), tree + "/compile_commands.json"});
  Command command;
  command.argv = {own_program()};
  for (std::size_t i = 1; i < common.argv.size(); ++i) {
    if (common.argv[i] != "--watch") command.argv.push_back(common.argv[i]);
  }
  int last = 0;
  while (interrupted_by == 0) {
    // Each time a process of its own: nothing that one has seen may count in the next.
    const Ended ended = run_on_terminal(command);
    if (ended.how != Ended::How::exited) return last == 0 ? 128 + ended.code : last;
    last = ended.code;
    if (interrupted_by != 0 || last == static_cast<int>(Exit::kiln)) break;
    std::time_t when = std::time(nullptr);
    std::tm parts{};
    ::localtime_r(&when, &parts);
    char clock[16];
    std::strftime(clock, sizeof clock, "%H:%M:%S", &parts);
    screen.remark("watch",
                  std::string(last == 0 ? "passed" : "failed (exit code " + std::to_string(last) + ")") + " at " +
                      clock + "; waiting for a change in " + text::count(watch.folders(), "folder") +
                      ", Ctrl-C ends it",
                  last == 0 ? Tone::good : Tone::bad);
    const std::string changed = watch.wait();
    if (!changed.empty()) screen.remark("changed", changed);
  }
  return last;
}

}  // namespace coctilis::app
