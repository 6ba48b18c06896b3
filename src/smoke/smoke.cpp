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
      throw Fault({Exit::usage,
                   {},
                   "there is no check '" + name + "'",
                   "",
                   "name a program, a [[smoke]] check or a declared test",
                   {}});
  }
}

}  // namespace

Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request,
                                             const std::function<void(const model::Check&)>& ended) {
  return guarded("checking", [&] {
    const Context context{plan, settings, request};
    check_names(context);
    std::vector<model::Check> out;
    Runner runner(plan, request.toolchain);
    for (const auto& kind : kinds()) {
      for (const auto& planned : kind.expand(context)) {
        if (interrupted_by != 0) return out;
        out.push_back(planned.run(runner));
        ended(out.back());
      }
    }
    return out;
  });
}

}  // namespace coctilis::smoke
