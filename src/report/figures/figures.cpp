#include "report/figures/figures.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.h"

namespace coctilis::report {

std::vector<Figure> figures_of(const Material& material) {
  static constexpr std::optional<Figure> (*table[])(const Material&) = {
      timeline_figure,        members_timeline_figure, spent_by_stage_figure, spent_by_target_figure,
      spent_by_source_figure, spent_by_header_figure,  targets_figure,        members_figure,
      sizes_figure,           history_figure,          languages_figure,      folders_figure};
  std::vector<Figure> out;
  for (const auto make : table) {
    if (auto figure = make(material)) out.push_back(std::move(*figure));
  }
  return out;
}

Drawing bars_drawing(const std::vector<NamedBar>& bars, const std::string& axis) {
  constexpr double row = 22;
  double names = 40;
  double values = 40;
  double most = 0;
  for (const auto& bar : bars) {
    names = std::max(names, width_of(bar.name));
    values = std::max(values, width_of(bar.shown));
    double sum = 0;
    for (const auto& part : bar.parts) sum += part.second;
    most = std::max(most, sum);
  }
  names = std::min(names, 330.0);
  const double left = names + 12;
  const double room = figure_width - left - values - 14;
  Drawing out;
  out.width = figure_width;
  const double floor = 8 + row * static_cast<double>(bars.size());
  out.height = floor + 38;
  const auto x_of = [&](double value) { return left + (most > 0 ? room * value / most : 0); };
  for (const double mark : marks_up_to(most)) {
    out.line(Ink::line, x_of(mark), 4, x_of(mark), floor);
    out.write(Ink::soft, x_of(mark), floor + 14, fmt::format("{:g}", mark), Anchor::middle);
  }
  for (std::size_t i = 0; i < bars.size(); ++i) {
    const double y = 8 + row * static_cast<double>(i);
    out.write(Ink::text, left - 8, y + 12, fitted(bars[i].name, names), Anchor::end);
    double at = 0;
    for (const auto& [ink, value] : bars[i].parts) {
      if (value > 0) out.box(ink, x_of(at), y, std::max(1.0, x_of(at + value) - x_of(at)), 15, bars[i].name);
      at += value;
    }
    out.write(Ink::soft, x_of(at) + 6, y + 12, bars[i].shown);
  }
  out.write(Ink::soft, left + room / 2, floor + 31, axis, Anchor::middle);
  return out;
}

void write_legend(Drawing& drawing, double x, double y, const std::vector<std::pair<Ink, std::string>>& entries) {
  for (const auto& [ink, name] : entries) {
    drawing.box(ink, x, y - 9, 10, 10);
    drawing.write(Ink::soft, x + 15, y, name);
    x += 15 + width_of(name) + 18;
  }
}

}  // namespace coctilis::report
