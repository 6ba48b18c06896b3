// plan: targets with their include and link paths, and the steps.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "describe/sources/units.h"
#include "report/sentences.h"

namespace coctilis::app {

namespace {

// What of a target is compiled, as far as a screen holds it.
std::vector<std::string> sources_of(const model::Run& run, const model::PlannedTarget& target) {
  constexpr std::size_t most = 20;
  std::vector<std::string> out;
  for (const auto index : target.steps) {
    const auto& step = run.plan.steps[index];
    if (step.kind == model::StepKind::compile) out.push_back(step.subject);
  }
  if (out.size() <= most) return out;
  const std::size_t more = out.size() - most;
  out.resize(most);
  out.push_back("and " + std::to_string(more) + " more (-v lists all steps)");
  return out;
}

}  // namespace

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
    if (t.kind == model::TargetKind::finished) {
      screen.line("finish", t.name + ": " + shown(t.output));
      continue;
    }
    std::string head = t.name + ", " + model::name_of(t.kind);
    if (t.sources > 0) head += " of " + text::count(t.sources, "source");
    if (!t.output.empty()) head += ": " + shown(t.output);
    if (!t.in_default) head += " (on demand)";
    screen.line("target", head);
    if (!t.why.empty()) {
      screen.under("because " + t.why);
      list("sources", sources_of(run, t));
    }
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
  for (const auto& [reason, sources] : report::sources_left_out(run)) {
    if (sources.size() == 1) {
      screen.line("left out", sources.front() + ": " + reason, Tone::plain);
      continue;
    }
    screen.line("left out", text::count(sources.size(), "source") + ": " + reason, Tone::plain);
    constexpr std::size_t most = 12;
    const bool all = screen.verbosity() > 0 || sources.size() <= most;
    const std::vector<std::string> shown_ones(sources.begin(), all ? sources.end() : sources.begin() + most);
    screen.under(text::join(shown_ones, " ") +
                 (all ? "" : " and " + std::to_string(sources.size() - most) + " more (-v lists them)"));
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

namespace {

// Puts what the sources were found to come to into the tree's coctilis.toml, behind what it says already.
int write_targets(Screen& screen, const model::Run& run) {
  const std::string path = run.tree + "/coctilis.toml";
  const auto complain = [&](const std::string& what, const std::string& remedy) {
    screen.problem({Exit::usage, {}, what, {}, remedy, {}});
    return static_cast<int>(Exit::usage);
  };
  if (!run.settings.targets.empty())
    return complain("coctilis.toml names the targets already",
                    "edit it, or take its [[target]]s out to have them found anew");
  if (run.project.source_targets.empty())
    return complain("the tree is built by " +
                        (run.project.description.empty() ? "its members" : run.project.description) +
                        ": there are no targets that were found out from sources",
                    "description = \"sources\" under [tree] of coctilis.toml has them found out");
  if (files::is_link(path))
    return complain("coctilis.toml is a link: it is not written through", "put a file in its place");
  std::string text = files::exists(path) ? files::read(path).value_or("") : std::string{};
  if (!text.empty() && !text.ends_with('\n')) text += "\n";
  if (!text.empty()) text += "\n";
  text +=
      "# What the sources were found to come to. Edit it at will: nothing is found out any more while it is here.\n\n" +
      describe::sources::as_settings(run.project.source_targets);
  files::write(path, text);
  screen.line(
      "wrote",
      files::below(path, files::absolute(".")) + ": " + text::count(run.project.source_targets.size(), "target"),
      Tone::good);
  return 0;
}

}  // namespace

void add_plan(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("plan", "Targets with their include and link paths, steps; writes the compile database");
  add_tree(*command, common);
  add_common(*command, common);
  command->add_flag("--options", common.options, "The options that the description declares, with their values");
  command->add_flag("--write", common.write,
                    "Write the targets that were found out from the sources into the tree's coctilis.toml");
  command->callback([&common] {
    common.chosen = [&common] {
      if (!common.write) return run_stages(common, Goal::plan);
      Screen screen(common.plain, common.quiet, common.verbosity, common.json);
      model::Run run = start_run(common);
      const int code = run_stages(common, Goal::plan, screen, run);
      return code == 0 ? write_targets(screen, run) : code;
    };
  });
}

}  // namespace coctilis::app
