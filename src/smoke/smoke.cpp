#include "smoke/smoke.h"

#include <algorithm>

#include "base/process.h"
#include "smoke/kinds/kind.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

namespace {

void check_names(const Context& context) {
  for (const auto& name : context.request.only) {
    bool known = context.plan.target(name) != nullptr;
    for (const auto& kind : kinds()) {
      const auto names = kind.names(context);
      known = known || std::find(names.begin(), names.end(), name) != names.end();
    }
    if (!known)
      throw Fault(
          {Exit::usage, {}, "there is no check '" + name + "'", "", "coctilis smoke --list shows what there is", {}});
  }
}

}  // namespace

namespace {

// The check as often as it is asked for. One that does not always end alike has failed.
model::Check repeated(const PlannedCheck& planned, Runner& runner, unsigned times) {
  model::Check out = planned.run(runner);
  unsigned failed = out.verdict == model::Verdict::failed ? 1 : 0;
  unsigned made = 1;
  for (; made < times && interrupted_by == 0 && out.verdict != model::Verdict::skipped; ++made) {
    model::Check again = planned.run(runner);
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

Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request,
                                             const std::function<void(const model::Check&)>& ended) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<model::Check> out;
    Runner runner(plan, request.toolchain);
    runner.debug(request.debugs);
    for (const auto& kind : kinds()) {
      for (const auto& planned : kind.expand(context)) {
        if (interrupted_by != 0) return out;
        if (request.begun) request.begun(planned.name);
        out.push_back(repeated(planned, runner, request.repeat));
        ended(out.back());
      }
    }
    return out;
  });
}

}  // namespace coctilis::smoke
