#include "pipeline/checking.h"

#include <nlohmann/json.hpp>

#include "base/process.h"
#include "base/text.h"
#include "pipeline/clients_prefix.h"
#include "pipeline/reached_makes.h"
#include "record/check_numbers.h"
#include "record/record.h"
#include "smoke/smoke.h"

namespace coctilis::pipeline {

namespace {

// The names of checks that failed in the newest record of the kiln.
std::vector<std::string> failed_last_time(const model::Run& run) {
  std::vector<std::string> out;
  const auto record = nlohmann::json::parse(record::newest(run.kiln), nullptr, false);
  if (!record.is_object() || !record.contains("checks") || !record["checks"].is_array()) return out;
  for (const auto& check : record["checks"]) {
    if (check.is_object() && check.value("verdict", nlohmann::json()) == model::name_of(model::Verdict::failed) &&
        check.contains("name") && check["name"].is_string())
      out.push_back(check["name"].get<std::string>());
  }
  return out;
}

smoke::Request request_of(const model::Run& run, const CheckListener& listener) {
  smoke::Request out;
  out.toolchain = &run.toolchain;
  out.records = run.options.record_numbers;
  out.debugs = run.options.debug_checks;
  out.repeat = run.options.repeat_checks;
  out.jobs = run.settings.jobs;
  out.shared_tokens = run.options.shared_tokens;
  out.begun = listener.begun;
  return out;
}

// Ends the run where a check failed, or it was interrupted.
bool conclude(model::Run& run, const std::vector<model::Check>& checks) {
  run.checked = true;
  if (interrupted_by != 0) {
    run.outcome.interrupted_by = interrupted_by;
    run.problem = {Exit::check, {}, "interrupted", {}, "run it again", {}};
    return false;
  }
  const auto failed = static_cast<std::size_t>(std::count_if(
      checks.begin(), checks.end(), [](const auto& check) { return check.verdict == model::Verdict::failed; }));
  if (failed > 0) run.problem = {Exit::check, {}, text::count(failed, "check") + " failed", {}, {}, {}};
  return failed == 0;
}

}  // namespace

bool enter_check(model::Run& run, const std::function<void(const smoke::Entered&)>& stay) {
  smoke::Request request = request_of(run, {});
  request.only = run.options.checks;
  const auto entered = smoke::enter_check(run.plan, run.settings, request, stay);
  if (!entered) run.problem = entered.problem();
  return entered.ok();
}

bool smoke(model::Run& run, const CheckListener& listener) {
  smoke::Request request = request_of(run, listener);
  request.only = run.options.checks;
  request.staged = prefix_of_clients(run);
  // What makefiles and scripts install is there by their having done it.
  if (!run.project.by_recipes) request.not_staged = install_for_clients(run);
  if (run.options.failed_checks) {
    // One that is not there any more cannot be made again.
    for (auto& name : smoke::known_checks(run.plan, run.settings, request, failed_last_time(run)))
      request.only.push_back(std::move(name));
    // Without a name it would be all of them.
    if (request.only.empty()) {
      run.reached = model::Stage::smoke;
      return conclude(run, {});
    }
  }
  if (run.project.by_recipes) begin_reaching(run.kiln + "/make");
  auto checks = smoke::run_checks(run.plan, run.settings, request, listener.ended);
  if (!checks) {
    run.problem = checks.problem();
    return false;
  }
  run.checks = std::move(*checks);
  record::compare_check_numbers(run);
  if (run.project.by_recipes) end_reaching(run.kiln + "/make", Purpose::check);
  if (!conclude(run, run.checks)) return false;
  run.reached = model::Stage::smoke;
  return true;
}

bool smoke_whole(model::Run& run, const CheckListener& listener) {
  smoke::Request request = request_of(run, listener);
  const auto& asked = run.options.checks;
  const auto add = [&](const std::string& name) {
    if (asked.empty() || std::find(asked.begin(), asked.end(), name) != asked.end()) request.only.push_back(name);
  };
  for (const auto& check : run.settings.smoke) add(check.name);
  for (const auto& service : run.settings.services) add(service.name);
  if (request.only.empty()) return true;
  model::Plan all;
  all.tree = run.tree;
  all.kiln = run.kiln;
  all.work = run.kiln + "/work";
  for (const auto& member : run.members)
    all.targets.insert(all.targets.end(), member.plan.targets.begin(), member.plan.targets.end());
  auto checks = smoke::run_checks(all, run.settings, request, listener.ended);
  if (!checks) {
    run.problem = checks.problem();
    return false;
  }
  const bool good = conclude(run, *checks);
  run.checks.insert(run.checks.end(), checks->begin(), checks->end());
  record::compare_check_numbers(run);
  return good;
}

}  // namespace coctilis::pipeline
