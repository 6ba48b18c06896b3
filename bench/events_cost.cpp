// events_cost: what telling 2,000 steps by --json-lines costs, against the time in which as many small compilations
// run.
#include <fmt/format.h>

#include <algorithm>
#include <thread>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "report/events.h"

int main() {
  using namespace coctilis;
  constexpr std::size_t steps = 2000;
  constexpr int tried = 20;
  constexpr double limit = 0.01;
  const files::ScratchFolder scratch("bench");
  const std::string folder = scratch.path().string();
  files::write(folder + "/brick.c", "int brick(int x) { return x + 1; }\n");
  const double compiling = now();
  for (int i = 0; i < tried; ++i) {
    Command command;
    command.argv = {"/usr/bin/cc", "-c", "-O2", "-o", folder + "/brick.o", folder + "/brick.c"};
    if (!run(command).good()) return 1;
  }
  const double build = (now() - compiling) / tried * steps / std::max(1U, std::thread::hardware_concurrency());
  std::FILE* out = std::fopen((folder + "/events").c_str(), "w");
  if (out == nullptr) return 1;
  report::Events events(
      [&](const std::string& line) {
        std::fputs(line.c_str(), out);
        std::fflush(out);
      },
      now);
  model::Step step;
  step.kind = model::StepKind::compile;
  step.target = "clay";
  step.subject = "yard/clay/brick.c";
  model::StepResult result;
  result.state = model::StepState::done;
  const double telling = now();
  for (std::size_t i = 0; i < steps; ++i) {
    events.step_begun(step, i, result);
    events.progress({});
    events.step_ended(step, i, result);
  }
  const double seconds = now() - telling;
  std::fclose(out);
  fmt::print(
      "events of {} steps: {}, {:.3f} % of the {} in which as many small compilations run: {:.2f} of the limit of 1 "
      "%\n",
      text::grouped(steps), text::duration(seconds), 100 * seconds / build, text::duration(build),
      seconds / build / limit);
  return 0;
}
