// locate: every want with its finding.
#include <algorithm>

#include "base/text.h"
#include "commands.h"

namespace coctilis::app {

namespace {

void print_miss(Screen& screen, const model::Finding& f) {
  const auto& w = f.requirement;
  std::string head = w.name + (w.constraint.empty() ? "" : " " + w.constraint) + ", " +
                     (w.form.empty() ? "" : w.form + " ") + model::name_of(w.kind);
  if (!w.required_by.empty()) head += ", required by " + w.required_by;
  if (!w.place.file.empty()) head += " at " + w.place.text();
  const auto tell = [&](const std::string& name, const std::string& text, Tone tone) {
    if (w.required)
      screen.complaint(name, text, tone);
    else
      screen.line(name, text, tone);
  };
  tell(w.required ? "missing" : "not found", head, w.required ? Tone::bad : Tone::soft);
  if (!f.reason.empty()) tell("", f.reason, Tone::plain);
  if (!f.package.empty() && f.reason.find(f.package) == std::string::npos)
    tell("", (w.required ? "it is in the package " : "to turn it on, install the package ") + f.package, Tone::plain);
  if (f.looked.empty()) return;
  if (screen.verbosity() > 0) {
    for (const auto& place : f.looked) tell("", "searched " + place, Tone::soft);
  } else {
    tell(
        "",
        "searched " + f.looked.front() +
            (f.looked.size() > 1 ? " and " + text::count(f.looked.size() - 1, "other place") + " (-v lists them)" : ""),
        Tone::soft);
  }
}

void print_found(Screen& screen, const model::Finding& f) {
  std::string text = f.requirement.name + (f.version.empty() ? "" : " " + f.version) + ", " +
                     model::name_of(f.requirement.kind) + (f.where.empty() ? "" : ": " + f.where) + " (" + f.how;
  if (!f.version.empty() && !f.version_source.empty() && f.version_source != f.how)
    text += "; version from the " + f.version_source;
  if (!f.why_here.empty()) text += "; first by " + f.why_here;
  screen.line("found", text + ")", Tone::good);
  for (const auto& other : f.others) screen.under("passed over: " + other);
}

void print_toolchain(Screen& screen, const model::Toolchain& chain) {
  screen.line("uses", chain.family + " " + chain.version + " for " + chain.machine + ": " + chain.verdict, Tone::good);
  std::vector<std::string> fronts;
  for (const auto& [language, front] : chain.compilers)
    fronts.push_back(language + " " + front.path +
                     (front.default_standard.empty() ? "" : " (" + front.default_standard + ")"));
  screen.under(text::join(fronts, ", "));
  std::vector<std::string> tools;
  if (!chain.linker.empty())
    tools.push_back("linker " + chain.linker + (chain.linker_version.empty() ? "" : " (" + chain.linker_version + ")"));
  if (!chain.archiver.empty()) tools.push_back("archiver " + chain.archiver);
  if (!chain.c_library.empty()) tools.push_back(chain.c_library + " " + chain.c_library_version);
  screen.under(text::join(tools, ", "));
  std::vector<std::string> names;
  for (const auto& linker : chain.linkers) names.push_back(linker.name);
  std::string extras;
  if (!names.empty()) extras = "can also link with " + text::join(names, ", ");
  if (!chain.sanitizers.empty())
    extras += (extras.empty() ? "" : "; ") + std::string("sanitizers: ") + text::join(chain.sanitizers, ", ");
  if (!extras.empty()) screen.under(extras);
  if (chain.foreign)
    screen.under(chain.launcher.empty() ? "no emulator for its programs is here: they are not started"
                                        : "its programs run under " + text::shell_join(chain.launcher));
}

}  // namespace

void print_missing(Screen& screen, const model::Run& run) {
  for (const auto& f : run.findings) {
    if (!f.found && f.requirement.required) print_miss(screen, f);
  }
}

void print_requirements(Screen& screen, const model::Run& run) {
  const auto chosen = [&](const model::Toolchain& chain) {
    return chain.any().path == run.toolchain.any().path && chain.origin == run.toolchain.origin;
  };
  for (const auto& chain : run.toolchains) {
    if (chosen(chain)) print_toolchain(screen, chain);
  }
  for (const auto& chain : run.toolchains) {
    if (!chosen(chain))
      screen.line(
          "also",
          chain.name + " (" + chain.version + ", " + chain.machine + ", " + chain.any().path + "): " + chain.verdict,
          Tone::soft);
  }
  for (const auto& use : run.environment)
    screen.line("variable", use.name + "=" + use.value + " of the environment: " + use.effect);
  if (screen.verbosity() > 0) {
    for (std::size_t i = 0; i < run.search_order.size(); ++i) {
      if (i == 0)
        screen.line("searches", run.search_order[i]);
      else
        screen.under(run.search_order[i]);
    }
  } else if (!run.search_order.empty()) {
    screen.line("searches", text::count(run.search_order.size(), "place") + " in the search path (-v lists them)",
                Tone::soft);
  }
  std::size_t yes = 0;
  std::size_t no = 0;
  // What is missing comes last, next to what mends it.
  std::vector<const model::Finding*> ordered;
  for (const auto& f : run.findings) ordered.push_back(&f);
  std::stable_sort(ordered.begin(), ordered.end(), [](const model::Finding* a, const model::Finding* b) {
    const auto rank = [](const model::Finding* f) { return f->found ? 0 : f->requirement.required ? 2 : 1; };
    return rank(a) < rank(b);
  });
  std::vector<const model::Finding*> missing;
  for (const auto* entry : ordered) {
    const auto& f = *entry;
    const bool question =
        f.how == "probe" && !f.requirement.required &&
        (f.requirement.kind == model::RequirementKind::header ||
         f.requirement.kind == model::RequirementKind::function || f.requirement.kind == model::RequirementKind::type);
    if (question && screen.verbosity() == 0)
      (f.found ? yes : no)++;
    else if (!f.found && f.requirement.required)
      missing.push_back(entry);
    else if (!f.found)
      print_miss(screen, f);
    else if (f.requirement.kind != model::RequirementKind::toolchain)
      print_found(screen, f);
  }
  for (const auto& mention : run.mentions) {
    screen.line("also",
                mention.name + ", mentioned at " + mention.place.text() +
                    (mention.package.empty()           ? ""
                     : mention.installed               ? "; the package " + mention.package + " is installed"
                     : mention.package == mention.name ? "; not installed"
                                                       : "; in the package " + mention.package + ", not installed"),
                Tone::soft);
  }
  if (yes + no > 0) {
    screen.line("checks", text::count(yes + no, "compiler check") + ": " + std::to_string(yes) + " yes, " +
                              std::to_string(no) + " no (-v lists them)");
  }
  for (const auto* f : missing) print_miss(screen, *f);
}

void print_changes(Screen& screen, const model::Run& run) {
  if (!run.compared) {
    screen.line("changes", "there is no earlier run in this kiln to compare with");
    return;
  }
  if (run.changes.empty()) {
    screen.line("changes", "nothing is different from the run before");
    return;
  }
  for (const auto& c : run.changes) {
    std::string text = c.name + ", " + c.kind + ": ";
    if (c.before.empty())
      text += c.after;
    else if (c.after.empty())
      text += "was " + c.before;
    else
      text += c.after + "; was " + c.before;
    screen.line(c.what, text, c.after == "missing" ? Tone::bad : c.after.empty() ? Tone::soft : Tone::good);
  }
}

void add_locate(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("locate", "Every requirement with its finding; what is missing, with the package to install");
  add_tree(*command, common);
  add_common(*command, common);
  command->add_flag("--changes", common.changes, "Only what differs from the run before in the same kiln");
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::locate); }; });
}

}  // namespace coctilis::app
