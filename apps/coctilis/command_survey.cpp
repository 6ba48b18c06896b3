// survey: what is in the tree, what describes it, is it whole.
#include <fmt/format.h>

#include "base/text.h"
#include "commands.h"

namespace coctilis::app {

void print_survey(Screen& screen, const model::Run& run) {
  const auto& s = run.survey;
  if (!s.languages.empty()) {
    screen.line("languages", fmt::format("{:<16} {:>7} {:>9} {:>9} {:>9}", "", "files", "code", "comment", "blank"));
    for (const auto& l : s.languages) {
      screen.under(fmt::format("{:<16} {:>7} {:>9} {:>9} {:>9}", text::clip(l.language, 16), text::grouped(l.files),
                               text::grouped(l.code), text::grouped(l.comment), text::grouped(l.blank)),
                   Tone::plain);
    }
  }
  for (const auto& d : s.descriptions) {
    screen.line(d.followed ? "follows" : "leaves", d.path + ": " + d.reason, d.followed ? Tone::good : Tone::soft);
  }
  for (std::size_t i = 0; i < s.entry_points.size(); ++i) {
    if (i == 12 && screen.verbosity() == 0 && s.entry_points.size() > 14) {
      screen.under("and " + std::to_string(s.entry_points.size() - i) + " more (-v lists all)");
      break;
    }
    if (i == 0)
      screen.line("starts in", s.entry_points[i].place.text());
    else
      screen.under(s.entry_points[i].place.text(), Tone::plain);
  }
  for (const auto& m : s.submodules) {
    switch (m.state) {
      case model::SubmoduleState::empty:
        screen.line("submodule",
                    m.path + ": empty; fetch it with: git submodule update --init " + text::shell_quote(m.path),
                    Tone::bad);
        break;
      case model::SubmoduleState::pinned:
        screen.line("submodule", m.path + ": at the pinned revision " + m.pinned.substr(0, 12));
        break;
      case model::SubmoduleState::elsewhere:
        screen.line("submodule", m.path + ": at " + m.actual.substr(0, 12) + ", pinned is " + m.pinned.substr(0, 12),
                    Tone::bad);
        break;
      case model::SubmoduleState::unknown:
        screen.line("submodule", m.path + ": there, but its revision cannot be told");
        break;
    }
  }
  for (const auto& h : s.hazards)
    screen.line("hazard", h.kind + ": " + h.path + (h.detail.empty() ? "" : " (" + h.detail + ")"), Tone::bad);
  if (s.followed() == nullptr)
    screen.line(
        "note",
        s.descriptions.empty() ? "nothing here says how it is built" : "no description here can be followed yet",
        Tone::bad);
}

void add_survey(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("survey", "What is in the tree, what describes it, is it whole");
  add_tree(*command, common);
  command->add_option("--config", common.run.config, "Another coctilis.toml, read after that of the tree")
      ->type_name("FILE");
  add_output(*command, common);
  command->callback([&common] { common.chosen = [&common] { return run_stages(common, Goal::survey); }; });
}

}  // namespace coctilis::app
