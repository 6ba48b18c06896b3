// plan: targets with their include and link paths, and the steps.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"

namespace coctilis::app {

void print_plan(Screen& screen, const model::Run& run) {
  const auto shown = [&](const std::string& path) {
    if (path == run.plan.work) return std::string("work");
    return files::is_below(path, run.plan.work) ? "work/" + files::below(path, run.plan.work)
                                                : files::below(path, run.tree);
  };
  const auto list = [&](const char* name, const std::vector<std::string>& items) {
    if (items.empty()) return;
    screen.under(std::string(name) + " " + text::join(items, " "), Tone::plain);
  };
  for (const auto& t : run.plan.targets) {
    if (t.kind == model::TargetKind::custom && t.steps.empty()) continue;
    std::string head = t.name + ", " + model::name_of(t.kind);
    if (t.sources > 0) head += " of " + text::count(t.sources, "source");
    if (!t.output.empty()) head += ": " + shown(t.output);
    if (!t.in_default) head += " (on demand)";
    screen.line("target", head);
    std::vector<std::string> folders;
    for (const auto& f : t.include_folders) folders.push_back(shown(f));
    for (const auto& f : t.system_include_folders) folders.push_back(f + " (system)");
    list("includes from", folders);
    list("defines", t.definitions);
    list("options", t.compile_options);
    std::vector<std::string> links;
    for (const auto& l : t.link_items) links.push_back(l.starts_with('/') ? shown(l) : l);
    list("links", links);
    list("run path", t.run_path);
    if (screen.verbosity() > 0) {
      for (const auto index : t.steps) {
        const auto& step = run.plan.steps[index];
        screen.under(std::string(model::name_of(step.kind)) + " " + step.subject);
        for (const auto& action : step.actions) screen.under("  " + action.text());
      }
    }
  }
  for (const auto& step : run.plan.steps) {
    if (step.kind == model::StepKind::generate) {
      screen.line("generates", step.subject + " (" + step.place.text() + ")");
      if (screen.verbosity() > 0) {
        for (const auto& action : step.actions) screen.under("  " + action.text());
      }
    }
  }
  const std::string here = files::absolute(".");
  screen.line("database", files::below(run.kiln + "/compile_commands.json", here));
}

void print_options(Screen& screen, const model::Run& run) {
  if (run.project.options.empty()) {
    screen.line("options", "the description declares none");
    return;
  }
  for (const auto& o : run.project.options) {
    std::string head = o.name + " = " + (o.value.empty() ? "(empty)" : o.value) + ", " + o.type;
    if (o.value != o.initial) head += "; default " + (o.initial.empty() ? "(empty)" : o.initial);
    screen.line("option", head, o.value != o.initial ? Tone::good : Tone::name);
    screen.under((o.help.empty() ? "" : o.help + " ") + "(" + o.place.text() + ")");
  }
  screen.line("note", "--set NAME=VALUE gives one another value, or [options] in coctilis.toml");
}

void add_plan(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("plan", "Targets with their include and link paths, steps; writes the compile database");
  add_tree(*command, common);
  add_common(*command, common);
  command->add_flag("--options", common.options, "The options that the description declares, with their values");
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::plan); }; });
}

}  // namespace coctilis::app
