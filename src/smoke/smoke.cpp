#include "smoke/smoke.h"

#include <algorithm>
#include <optional>

#include "base/process.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "smoke/kinds/kind.h"
#include "smoke/order.h"
#include "smoke/runner.h"
#include "smoke/side_by_side.h"

namespace coctilis::smoke {

namespace {

bool is_known(const Context& context, const std::string& name) {
  if (context.plan.target(name) != nullptr) return true;
  return std::any_of(kinds().begin(), kinds().end(), [&](const Kind& kind) {
    const auto names = kind.names(context);
    return std::find(names.begin(), names.end(), name) != names.end();
  });
}

void check_names(const Context& context) {
  for (const auto& name : context.request.only) {
    if (!is_known(context, name))
      throw Fault(
          {Exit::usage, {}, "there is no check '" + name + "'", "", "coctilis smoke --list shows what there is", {}});
  }
}

model::Check run_one(const PlannedCheck& planned, Runner& runner) {
  std::optional<sandbox::OwnNetwork> network;
  if (planned.own_network) network.emplace();
  return planned.run(runner);
}

// The check as often as it is asked for. One that does not always end alike has failed.
model::Check repeated(const PlannedCheck& planned, Runner& runner, unsigned times) {
  model::Check out = run_one(planned, runner);
  unsigned failed = out.verdict == model::Verdict::failed ? 1 : 0;
  unsigned made = 1;
  for (; made < times && interrupted_by == 0 && out.verdict != model::Verdict::skipped; ++made) {
    model::Check again = run_one(planned, runner);
    if (again.verdict == model::Verdict::failed) ++failed;
    const double seconds = out.seconds + again.seconds;
    if (again.verdict == model::Verdict::failed && out.verdict != model::Verdict::failed) out = std::move(again);
    out.seconds = seconds;
  }
  if (times > 1 && failed == 0 && out.verdict == model::Verdict::passed)
    out.reason += "; " + std::to_string(made) + " times";
  if (failed > 0 && made > 1)
    out.reason = (failed < made ? "flaky: " : "") +
                 ("failed " + std::to_string(failed) + " of " + std::to_string(made)) + " times: " + out.reason;
  return out;
}

}  // namespace

std::vector<std::string> known_checks(const model::Plan& plan, const model::Settings& settings, const Request& request,
                                      const std::vector<std::string>& names) {
  const Context context{plan, settings, request};
  std::vector<std::string> out;
  std::copy_if(names.begin(), names.end(), std::back_inserter(out),
               [&](const auto& name) { return is_known(context, name); });
  return out;
}

Result<std::vector<ListedCheck>> list_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<ListedCheck> out;
    for (const auto& kind : kinds()) {
      for (auto& planned : kind.expand(context))
        out.push_back({kind.kind, planned.name, planned.what, planned.needs, planned.place});
    }
    return out;
  });
}

Result<bool> enter_check(const model::Plan& plan, const model::Settings& settings, const Request& request,
                         const std::function<void(const Entered&)>& stay) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<PlannedCheck> all;
    for (const auto& kind : kinds()) {
      for (auto& planned : kind.expand(context)) {
        // Those that it needs are there as well.
        if (planned.enter != nullptr && context.wanted(planned.name, planned.program))
          all.push_back(std::move(planned));
      }
    }
    // One that is called so comes before those of a program of that name.
    const auto named = std::find_if(all.begin(), all.end(), [&](const auto& one) {
      return request.only.size() == 1 && one.name == request.only.front();
    });
    if (named == all.end() && all.size() != 1) {
      std::vector<std::string> names;
      for (const auto& one : all) names.push_back("'" + one.name + "'");
      throw Fault(
          {Exit::usage,
           {},
           all.empty() ? "none of these checks runs anything" : "several checks are meant: " + text::join(names, ", "),
           {},
           "name one that runs a program: coctilis smoke --list shows what each runs",
           {}});
    }
    const PlannedCheck& planned = named == all.end() ? all.front() : *named;
    Runner runner(plan, request.toolchain);
    std::optional<sandbox::OwnNetwork> network;
    if (planned.own_network) network.emplace();
    if (const auto obstacle = planned.enter(runner, stay))
      throw Fault({Exit::check,
                   planned.place,
                   "the check '" + planned.name + "' cannot be entered: " + obstacle->reason,
                   obstacle->cause,
                   obstacle->remedy,
                   {}});
    return true;
  });
}

Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request,
                                             const std::function<void(const model::Check&)>& ended) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<model::Check> out;
    Runner runner(plan, request.toolchain);
    runner.debug(request.debugs);
    runner.start_anew(request.debugs || request.repeat > 1);
    for (const auto& kind : kinds()) {
      const auto all = kind.expand(context);
      if (request.jobs > 1 && request.repeat == 1 && all.size() > 1 &&
          std::all_of(all.begin(), all.end(), [](const auto& planned) { return planned.beside != nullptr; })) {
        auto checks = run_side_by_side(kind, context, all, runner);
        name_order_as_cause(kind, context, runner, checks);
        for (auto& check : checks) {
          out.push_back(std::move(check));
          ended(out.back());
        }
        continue;
      }
      std::vector<model::Check> checks;
      for (const auto& planned : all) {
        if (interrupted_by != 0) break;
        if (request.begun) request.begun(planned.name);
        checks.push_back(repeated(planned, runner, request.repeat));
        ended(checks.back());
      }
      if (request.repeat == 1 && !all.empty() && all.front().beside != nullptr)
        name_order_as_cause(kind, context, runner, checks);
      std::move(checks.begin(), checks.end(), std::back_inserter(out));
      if (interrupted_by != 0) return out;
    }
    return out;
  });
}

}  // namespace coctilis::smoke
