// smoke: runs the checks, all or those named; --list shows them.
#include <nlohmann/json.hpp>

#include "base/text.h"
#include "commands.h"
#include "pipeline/clients_prefix.h"
#include "record/record.h"
#include "smoke/smoke.h"

namespace coctilis::app {

namespace {

struct Row {
  std::string kind;
  std::string name;
  std::string runs;
};

// Checks in a record that are not in the list.
void add_recorded(const std::string& record, const std::string& before, std::vector<Row>& rows) {
  const auto read = nlohmann::json::parse(record, nullptr, false);
  if (!read.is_object() || !read.contains("checks") || !read["checks"].is_array()) return;
  for (const auto& check : read["checks"]) {
    if (!check.is_object()) continue;
    const auto text = [&](const char* key) {
      const auto it = check.find(key);
      return it != check.end() && it->is_string() ? it->get<std::string>() : std::string{};
    };
    const std::string name = before + text("name");
    const bool known = std::any_of(rows.begin(), rows.end(), [&](const auto& row) { return row.name == name; });
    if (!known && !name.empty()) rows.push_back({text("kind"), name, text("command")});
  }
}

// The checks of the tree, and of each of its members, that could be made of what is built now.
int list_checks(const Common& common) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  model::Run run = start_run(common);
  pipeline::read_only(run);
  std::vector<Row> rows;
  const auto add = [&](const model::Run& one, const std::string& before) {
    if (one.problem) return one.problem;
    smoke::Request request;
    request.only = common.run.checks;
    request.toolchain = &one.toolchain;
    request.staged = pipeline::prefix_of_clients(one);
    const auto listed = smoke::list_checks(one.plan, one.settings, request);
    if (!listed) return std::optional<Problem>(listed.problem());
    for (const auto& check : *listed) {
      std::string runs = check.what;
      if (!check.needs.empty()) runs += "; with " + text::join(check.needs, ", ");
      rows.push_back({model::name_of(check.kind), before + check.name, std::move(runs)});
    }
    // What recipes make is known once they have run.
    if (one.project.by_recipes && common.run.checks.empty()) add_recorded(record::newest(one.kiln), before, rows);
    return std::optional<Problem>{};
  };
  std::optional<Problem> problem = add(run, "");
  for (const auto& member : run.members) {
    if (!problem) problem = add(member, member.as_member.name + ": ");
  }
  if (problem) {
    screen.problem(*problem);
    return static_cast<int>(problem->exit);
  }
  if (common.json) {
    auto out = nlohmann::ordered_json::array();
    for (const auto& row : rows) out.push_back({{"kind", row.kind}, {"name", row.name}, {"runs", row.runs}});
    screen.text(out.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n");
    return 0;
  }
  std::size_t width = 0;
  for (const auto& row : rows) width = std::max(width, text::columns(row.name));
  width = std::min<std::size_t>(width, 36);
  for (const auto& row : rows)
    screen.line(row.kind, row.name +
                              std::string(width > text::columns(row.name) ? width - text::columns(row.name) : 0, ' ') +
                              "  " + text::clip(text::printable_line(row.runs), 200));
  if (rows.empty()) screen.line("smoke", "nothing to check: build the tree first, or write [[smoke]] checks");
  return 0;
}

}  // namespace

void add_smoke(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("smoke", "Runs the checks: loads, starts, [[service]], [[smoke]], declared tests");
  add_tree(*command, common, &common.run.checks);
  command->add_option("CHECK", common.run.checks, "Checks by name, or programs");
  auto list = std::make_shared<bool>(false);
  command->add_flag("--list", *list, "Only shows the checks, and what each runs");
  command->add_flag("--failed", common.run.failed_checks, "Those that failed in the last run");
  command
      ->add_option("--repeat", common.run.repeat_checks,
                   "Makes each check so often: one that does not always end alike fails")
      ->check(CLI::Range(1U, 100000U))
      ->type_name("N");
  command->add_flag("--record", common.run.record_numbers, "The numbers that checks read become those that are right");
  command->add_flag("--debug", common.run.debug_checks,
                    "Shows where failing programs crash or hang, whole (needs gdb)");
  command->add_flag("--shell", common.run.enters_check,
                    "Opens a shell in the working folder and environment of one check, beside its services");
  add_dry_run(*command, common, Goal::smoke, "Tell which steps would run and which checks would be made; do nothing");
  add_common(*command, common);
  command->callback([&common, list] {
    common.chosen = [&common, list] { return *list ? list_checks(common) : run_stages(common, Goal::smoke); };
  });
}

}  // namespace coctilis::app
