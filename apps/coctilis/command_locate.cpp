// locate: every want with its finding.
#include "base/text.h"
#include "commands.h"

namespace coctilis::app {

namespace {

void print_miss(Screen& screen, const model::Finding& f) {
  const auto& w = f.want;
  std::string head = w.name + (w.constraint.empty() ? "" : " " + w.constraint) + ", " + model::name_of(w.kind);
  if (!w.asked_by.empty()) head += ", asked for by " + w.asked_by;
  if (!w.place.file.empty()) head += " at " + w.place.text();
  screen.line(w.required ? "missing" : "absent", head, w.required ? Tone::bad : Tone::soft);
  if (!f.reason.empty()) screen.under(f.reason, Tone::plain);
  if (!f.package.empty()) screen.under("install it: apt-get install " + f.package, Tone::plain);
  if (f.looked.empty()) return;
  if (screen.verbosity() > 0) {
    for (const auto& place : f.looked) screen.under("looked at " + place);
  } else {
    screen.under(
        "looked at " + f.looked.front() +
        (f.looked.size() > 1 ? " and " + text::count(f.looked.size() - 1, "other place") + " (-v lists them)" : ""));
  }
}

}  // namespace

void print_missing(Screen& screen, const model::Run& run) {
  for (const auto& f : run.findings) {
    if (!f.found && f.want.required) print_miss(screen, f);
  }
}

void print_wants(Screen& screen, const model::Run& run) {
  for (const auto& chain : run.toolchains) {
    const bool chosen = chain.c.path == run.toolchain.c.path && chain.cxx.path == run.toolchain.cxx.path;
    std::string head = chain.family + " " + chain.version + " for " + chain.machine;
    std::vector<std::string> parts;
    if (chain.c.present()) parts.push_back("C: " + chain.c.path);
    if (chain.cxx.present()) parts.push_back("C++: " + chain.cxx.path);
    screen.line(chosen ? "uses" : "also", head + " (" + text::join(parts, ", ") + ")",
                chosen ? Tone::good : Tone::soft);
    if (!chosen) continue;
    if (!run.toolchain.linker.empty())
      screen.under("linker " + run.toolchain.linker +
                   (run.toolchain.linker_version.empty() ? "" : " (" + run.toolchain.linker_version + ")") +
                   ", archiver " + run.toolchain.archiver);
    const auto& c = run.toolchain.cxx.present() ? run.toolchain.cxx : run.toolchain.c;
    if (screen.verbosity() > 0) {
      for (const auto& folder : c.include_folders) screen.under("includes from " + folder);
      for (const auto& folder : c.link_folders) screen.under("links from " + folder);
    } else {
      screen.under("looks for headers in " + text::count(c.include_folders.size(), "folder") +
                   " and for libraries in " + text::count(c.link_folders.size(), "folder") + " (-v lists them)");
    }
  }
  std::size_t quiet_yes = 0;
  std::size_t quiet_no = 0;
  for (const auto& f : run.findings) {
    if (f.want.kind == model::WantKind::toolchain) {
      if (!f.found) print_miss(screen, f);
      continue;
    }
    const bool question = f.how == "probe" &&
                          (f.want.kind == model::WantKind::header || f.want.kind == model::WantKind::function ||
                           f.want.kind == model::WantKind::type) &&
                          !f.want.required;
    if (question && screen.verbosity() == 0) {
      (f.found ? quiet_yes : quiet_no)++;
      continue;
    }
    if (!f.found) {
      print_miss(screen, f);
      continue;
    }
    screen.line("found",
                f.want.name + (f.version.empty() ? "" : " " + f.version) + ", " + model::name_of(f.want.kind) +
                    (f.where.empty() ? "" : ": " + f.where) + " (" + f.how + ")",
                Tone::good);
  }
  if (quiet_yes + quiet_no > 0) {
    screen.line("asked", text::count(quiet_yes + quiet_no, "question") + " of the description put to the compiler: " +
                             std::to_string(quiet_yes) + " yes, " + std::to_string(quiet_no) + " no (-v lists them)");
  }
}

void add_locate(CLI::App& app, Common& common) {
  auto* command =
      app.add_subcommand("locate", "Every want with its finding; what is missing, with the package to install");
  add_tree(*command, common);
  add_common(*command, common);
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::locate); }; });
}

}  // namespace coctilis::app
