// firecurve: how a firing goes.
#include <cmath>
#include <cstdio>
#include <exception>

#include "brickyard_config.h"
#include "clay/glaze.h"
#include "clay/moisture.h"
#include "kilns/kilns.h"
#include "options.h"

int main(int argc, char** argv) {
  const Options options = read_options(argc, argv);
  if (options.help) {
    std::puts("usage: firecurve --cone N [--chart] SCHEDULE");
    return 0;
  }
  if (options.version) {
    std::puts("firecurve " BRICKYARD_VERSION);
    return 0;
  }
  if (!options.problem.empty()) {
    std::fprintf(stderr, "firecurve: %s\n", options.problem.c_str());
    return 2;
  }
  const int peak = curve::cone_peak(options.cone);
  if (peak == 0) {
    std::fprintf(stderr, "firecurve: there is no cone %d\n", options.cone);
    return 2;
  }
  try {
    const auto legs = curve::read_schedule(options.schedule);
    const auto results = kiln::fire_all({"north", "south", "old"}, legs, peak);
    for (const auto& result : results) {
      std::printf("%-6s peak %.0f in %.1f hours, %.1f kWh\n", result.kiln.c_str(), result.firing.peak, result.firing.hours, result.firing.energy);
    }
    if (const auto* glaze = clay::glaze_for(options.cone)) std::printf("glaze  %s\n", glaze->name.c_str());
    for (const auto& body : clay::bodies()) {
      std::printf("%-12s shrinks %.1f %%, dries %.1f hours\n", body.name.c_str(), 100 * clay::shrinkage(body, peak), clay_drying_hours(65, body.moisture));
    }
    std::printf("log    %zu bytes\n", kiln::log_size(results));
    if (options.chart) std::fputs(curve::chart(results.front().firing).c_str(), stdout);
  } catch (const std::exception& error) {
    std::fprintf(stderr, "firecurve: %s\n", error.what());
    return 1;
  }
  return 0;
}
