// large_page FILE [STEPS]: writes the page of a made-up build of so many steps (100,000), for bench/page.
#include <fmt/format.h>

#include <cstdlib>

#include "base/files.h"
#include "model/run.h"
#include "report/figures/figures.h"
#include "report/report.h"

int main(int count, char** words) {
  using namespace coctilis;
  if (count < 2) return 2;
  const int steps = count > 2 ? std::atoi(words[2]) : 100000;
  model::Run run;
  run.tree = "/yard";
  run.kiln = "/yard/kiln/gcc12-x86_64-release";
  run.label = "gcc12-x86_64-release";
  run.started = "2026-11-24T00:00:00Z";
  run.settings.variant = "release";
  run.built = true;
  report::Material material;
  for (int i = 0; i < steps; ++i) {
    model::Step step;
    step.kind = model::StepKind::compile;
    step.target = fmt::format("clay{}", i % 300);
    step.subject = fmt::format("yard/part{}/source_of_the_works_{}.c", i % 300, i);
    step.outputs = {fmt::format("/yard/kiln/{}.o", i)};
    run.plan.steps.push_back(step);
    model::StepResult result;
    result.state = model::StepState::done;
    result.started = i / 8.0;
    result.seconds = 1 + i % 7 / 10.0;
    run.outcome.steps.push_back(result);
    material.run.bars.push_back({"compile", step.subject, step.target, result.started, result.seconds, false, false});
  }
  run.outcome.ran = run.plan.steps.size();
  run.outcome.seconds = steps / 8.0 + 2;
  for (int i = 0; i < 300; ++i) {
    model::PlannedTarget target;
    target.name = fmt::format("clay{}", i);
    run.plan.targets.push_back(target);
    material.run.targets.push_back({target.name, "static library", "clay", {}, {}, true});
  }
  const std::string page = report::page(run, report::figures_of(material));
  files::write(words[1], page);
  fmt::print("{:.2f} MB, {:.2f} of the limit of 5 MB\n", static_cast<double>(page.size()) / 1e6,
             static_cast<double>(page.size()) / 5e6);
  return 0;
}
