// How runs went one after the other: time, warnings, checks, sizes.
#include <fmt/format.h>

#include <algorithm>

#include "base/text.h"
#include "report/figures/figures.h"

namespace coctilis::report {

namespace {

struct Series {
  const char* title;
  const char* unit;
  Ink ink;
  double (*value)(const Course&);
};

double bytes_of(const Course& run) {
  double out = 0;
  for (const auto& r : run.results) out += r.in_file();
  return out / 1000;
}

}  // namespace

std::optional<Figure> history_figure(const Material& material) {
  if (material.before.empty()) return std::nullopt;
  std::vector<const Course*> runs;
  for (const auto& run : material.before) runs.push_back(&run);
  runs.push_back(&material.run);
  static const Series all[] = {
      {"time of the build", "s", Ink::first, [](const Course& run) { return run.build_seconds; }},
      {"warnings", "", Ink::second, [](const Course& run) { return static_cast<double>(run.warnings); }},
      {"checks that failed", "", Ink::bad, [](const Course& run) { return static_cast<double>(run.checks_failed); }},
      {"size of the results", "kB", Ink::third, bytes_of}};
  Figure out{
      "history", "The runs in this kiln", {}, {}, "run,passed,build_s,warnings,checks,checks_failed,results_kB\n"};
  for (const auto* run : runs)
    out.data += fmt::format("{},{},{:.4f},{},{},{},{:.3f}\n", run->number, run->good ? "yes" : "no", run->build_seconds,
                            run->warnings, run->checks, run->checks_failed, bytes_of(*run));
  auto& drawing = out.drawing;
  drawing.width = figure_width;
  constexpr double column = figure_width / 2;
  constexpr double row = 170;
  drawing.height = 2 * row + 8;
  for (int k = 0; k < 4; ++k) {
    const auto& series = all[k];
    const double left = column * (k % 2) + 62;
    const double top = row * (k / 2) + 26;
    const double width = column - 92;
    const double height = row - 72;
    double most = 0;
    for (const auto* run : runs) most = std::max(most, series.value(*run));
    drawing.write(Ink::text, left - 54, top - 12,
                  std::string(series.title) + (series.unit[0] == 0 ? "" : std::string(" (") + series.unit + ")"),
                  Anchor::start, true);
    const auto y_of = [&](double value) { return top + height * (most > 0 ? 1 - value / most : 1); };
    for (const double mark : marks_up_to(most)) {
      drawing.line(Ink::line, left, y_of(mark), left + width, y_of(mark));
      drawing.write(Ink::soft, left - 6, y_of(mark) + 4, fmt::format("{:g}", mark), Anchor::end);
    }
    const double step = runs.size() > 1 ? width / static_cast<double>(runs.size() - 1) : 0;
    std::vector<double> points;
    for (std::size_t i = 0; i < runs.size(); ++i) {
      const double x = left + step * static_cast<double>(i);
      const double y = y_of(series.value(*runs[i]));
      points.insert(points.end(), {x, y});
      drawing.box(runs[i]->good ? series.ink : Ink::bad, x - 3, y - 3, 6, 6,
                  fmt::format("run {}: {:g} {}", runs[i]->number, series.value(*runs[i]), series.unit));
    }
    drawing.way(series.ink, std::move(points));
    drawing.write(Ink::soft, left, top + height + 15, std::to_string(runs.front()->number), Anchor::middle);
    drawing.write(Ink::soft, left + width, top + height + 15, std::to_string(runs.back()->number), Anchor::middle);
    drawing.write(Ink::soft, left + width / 2, top + height + 29, "number of the run", Anchor::middle);
  }
  const auto good = std::count_if(runs.begin(), runs.end(), [](const auto* run) { return run->good; });
  const double last = runs[runs.size() - 2]->build_seconds;
  out.sentence =
      fmt::format("{} of {} passed; this one built for {}, the one before for {}. Red: a run that did not pass.", good,
                  text::count(runs.size(), "run"), text::duration(material.run.build_seconds), text::duration(last));
  return out;
}

}  // namespace coctilis::report
