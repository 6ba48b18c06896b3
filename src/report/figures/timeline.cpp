// The build over its time: every step on a lane, what the end waited for, and where lanes stood empty.
#include <fmt/format.h>

#include <algorithm>

#include "base/text.h"
#include "report/figures/figures.h"
#include "report/lanes.h"

namespace coctilis::report {

namespace {

using Bar = Course::Bar;

Ink ink_of(const Bar& bar) {
  if (bar.failed) return Ink::bad;
  if (bar.kind == "compile") return Ink::first;
  return bar.kind == "link" || bar.kind == "archive" ? Ink::second : Ink::third;
}

std::string sentence(const std::vector<const Bar*>& bars, std::size_t lanes, double end) {
  double busy = 0;
  double critical = 0;
  const Bar* longest = nullptr;
  for (const auto* bar : bars) {
    busy += bar->seconds;
    if (!bar->critical) continue;
    critical += bar->seconds;
    if (longest == nullptr || bar->seconds > longest->seconds) longest = bar;
  }
  std::string out = text::count(bars.size(), "step") + " on " + text::count(lanes, "lane") + " in " +
                    text::duration(end) +
                    fmt::format("; lanes were busy for {:.0f} % of the time",
                                end > 0 ? 100 * busy / (end * static_cast<double>(lanes)) : 0);
  if (longest == nullptr || bars.size() < 3) return out + ".";
  out += fmt::format(". The steps that the end waited for (framed) take {} of it; the longest of them is {} {} ({})",
                     text::duration(critical), longest->kind, longest->subject, text::duration(longest->seconds));
  return out + (critical > 0.85 * end ? ": more parallel jobs would not shorten it, making these shorter would."
                                      : ": more parallel jobs may shorten it.");
}

}  // namespace

std::optional<Figure> timeline_figure(const Material& material) {
  std::vector<const Bar*> bars;
  double end = 0;
  for (const auto& bar : material.run.bars) {
    bars.push_back(&bar);
    end = std::max(end, bar.began + bar.seconds);
  }
  if (bars.empty() || end <= 0) return std::nullopt;
  std::stable_sort(bars.begin(), bars.end(), [](const auto* a, const auto* b) { return a->began < b->began; });
  std::vector<std::pair<double, double>> times;
  for (const auto* bar : bars) times.emplace_back(bar->began, bar->seconds);
  const auto [lane, lanes] = lanes_of(times);

  Figure out{"timeline",
             "The build over its time",
             sentence(bars, lanes, end),
             {},
             "lane,began_s,seconds,kind,target,subject,critical\n"};
  auto& drawing = out.drawing;
  constexpr double left = 60;
  constexpr double right = 14;
  const double row = lanes > 40 ? 6 : lanes > 16 ? 12 : 22;
  const double room = figure_width - left - right;
  const double floor = 26 + row * static_cast<double>(lanes);
  drawing.width = figure_width;
  drawing.height = floor + 40;
  write_legend(
      drawing, left, 12,
      {{Ink::first, "compile"}, {Ink::second, "link, archive"}, {Ink::third, "generate, run"}, {Ink::bad, "failed"}});
  const auto x_of = [&](double seconds) { return left + room * seconds / end; };
  for (const double mark : marks_up_to(end)) {
    drawing.line(Ink::line, x_of(mark), 20, x_of(mark), floor + 3);
    drawing.write(Ink::soft, x_of(mark), floor + 16, fmt::format("{:g}", mark), Anchor::middle);
  }
  for (std::size_t i = 0; i < lanes && row >= 12; ++i)
    drawing.write(Ink::soft, left - 8, 24 + row * (static_cast<double>(i) + 0.62), std::to_string(i + 1), Anchor::end);
  drawing.write(Ink::soft, 4, 14, "lane");
  // Of very many only those that can be seen, and all that the end waited for.
  const double least = bars.size() > 3000 ? end / room : 0;
  for (std::size_t i = 0; i < bars.size(); ++i) {
    const auto& bar = *bars[i];
    out.data += fmt::format("{},{:.4f},{:.4f},{},{},{},{}\n", lane[i] + 1, bar.began, bar.seconds, bar.kind,
                            csv(bar.target), csv(bar.subject), bar.critical ? "yes" : "no");
    if (bar.seconds < least && !bar.critical) continue;
    const double x = x_of(bar.began);
    const double y = 24 + row * static_cast<double>(lane[i]);
    const double w = std::max(0.6, x_of(bar.began + bar.seconds) - x - 0.5);
    const std::string tells =
        bar.kind + " " + bar.subject + ": " + text::duration(bar.seconds) + ", from " + text::duration(bar.began);
    drawing.box(ink_of(bar), x, y + 1, w, row - 3, tells);
    if (bar.critical) drawing.frame(Ink::text, x, y + 1, w, row - 3, tells);
    const std::string name = bar.subject.substr(bar.subject.rfind('/') + 1);
    if (row >= 20 && width_of(name) + 6 < w) drawing.write(Ink::text, x + 4, y + row * 0.62, name);
  }
  drawing.write(Ink::soft, left + room / 2, floor + 33, "seconds since the build began", Anchor::middle);
  return out;
}

}  // namespace coctilis::report
