// nothing_to_do [STEPS]: a build with nothing to do against a bare pass that stats the same files.
#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <vector>

#include "base/files.h"
#include "base/process.h"
#include "engine/engine.h"

namespace {
class Silent : public coctilis::engine::Observer {
 public:
  void step_ended(std::size_t, const coctilis::model::StepResult&) override {}
  void progress(const coctilis::engine::Progress&) override {}
};
}  // namespace

int main(int argc, char** argv) {
  using namespace coctilis;
  const std::size_t count = argc > 1 ? static_cast<std::size_t>(std::atol(argv[1])) : 5000;
  const files::ScratchFolder scratch("bench");
  model::Plan plan;
  plan.tree = scratch.path().string();
  plan.kiln = plan.tree + "/kiln";
  plan.work = plan.kiln + "/work";
  files::make_folder(plan.work);
  std::vector<std::string> all;
  for (std::size_t i = 0; i < count; ++i) {
    model::Step step;
    step.kind = model::StepKind::generate;
    step.inputs = {fmt::format("{}/clay/{}", plan.tree, i)};
    step.outputs = {fmt::format("{}/brick/{}", plan.work, i)};
    files::write(step.inputs[0], fmt::format("clay {}", i));
    step.actions = {{model::Action::How::builtin, {"copy", step.inputs[0], step.outputs[0]}, plan.work, {}}};
    all.push_back(step.inputs[0]);
    all.push_back(step.outputs[0]);
    plan.steps.push_back(std::move(step));
  }
  const engine::Request request{std::vector<bool>(count, true), 1, false, false};
  Silent silent;
  // Twice: young files are hashed once more before their times are trusted.
  for (int round = 0; round < 2; ++round) {
    if (!engine::build(plan, request, silent)) return 1;
    ::usleep(100000);
  }
  std::vector<double> ratios;
  for (int round = 0; round < 9; ++round) {
    const double begin = now();
    for (const auto& path : all) {
      struct stat info {};
      if (::stat(path.c_str(), &info) != 0) return 1;
    }
    const double middle = now();
    const auto outcome = engine::build(plan, request, silent);
    const double end = now();
    if (!outcome || outcome->ran != 0) return 1;
    ratios.push_back((end - middle) / (middle - begin));
  }
  std::sort(ratios.begin(), ratios.end());
  fmt::print("nothing to do / bare stats, {} steps: {:.2f} (median of {}), asked for: at most 1.5\n", count,
             ratios[ratios.size() / 2], ratios.size());
  return 0;
}
