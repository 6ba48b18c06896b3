#include "report/drift_figure.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/text.h"
#include "smoke/numbers.h"

namespace coctilis::report {

namespace {

// Pixels: the figure, and what lies around the field of its line.
constexpr double drift_width = 340;
constexpr double drift_height = 200;
constexpr double left_edge = 74;
constexpr double right_edge = 12;
constexpr double top_edge = 26;
constexpr double bottom_edge = 40;

std::string label(double value, double range) {
  // As many digits as tell the marks of the axis apart.
  const double size = std::max(std::abs(value), range);
  const int digits =
      range > 0 && size > 0 ? std::clamp(static_cast<int>(std::ceil(std::log10(size / range))) + 2, 3, 15) : 6;
  return fmt::format("{:.{}g}", value, digits);
}

// What there is to see, in a sentence.
std::string sentence(const model::CheckNumber& number, const std::vector<double>& values) {
  const auto [least, most] = std::minmax_element(values.begin(), values.end());
  const std::string runs = text::count(values.size(), "run");
  if (*least == *most) return fmt::format("{}: the same in all {}", number.name, runs);
  const double change = values.back() - values[values.size() - 2];
  std::string out = fmt::format("{}: between {} and {} in {}", number.name, label(*least, *most - *least),
                                label(*most, *most - *least), runs);
  out += change == 0 ? "; as in the run before" : fmt::format("; {:+.3g} against the run before", change);
  const double moved = values.back() - values.front();
  // A way that is longer than what it goes up and down by is one that it drifts.
  double steps = 0;
  for (std::size_t i = 1; i < values.size(); ++i) steps += std::abs(values[i] - values[i - 1]);
  if (values.size() > 3 && std::abs(moved) > 0.6 * steps)
    out += fmt::format("; it drifts: {:+.3g} since the first", moved);
  return out;
}

std::string text_at(double x, double y, const char* anchor, const std::string& text) {
  return fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\" text-anchor=\"{}\">{}</text>", x, y, anchor, text::html(text));
}

}  // namespace

std::string drift_figure(const model::CheckNumber& number) {
  std::vector<double> values = number.good_values;
  if (const auto now = smoke::value_of(number.text)) values.push_back(*now);
  std::erase_if(values, [](double value) { return !std::isfinite(value); });
  if (values.size() < 2) return "<p class=\"dim\">" + text::html(number.name) + ": one run so far</p>\n";
  const auto read = smoke::value_of(number.recorded);
  const bool has_recorded = read && std::isfinite(*read);
  const double recorded = has_recorded ? *read : 0;

  double low = *std::min_element(values.begin(), values.end());
  double high = *std::max_element(values.begin(), values.end());
  if (has_recorded) {
    low = std::min(low, recorded);
    high = std::max(high, recorded);
  }
  if (low == high) {
    const double room = low == 0 ? 1 : std::abs(low) * 0.01;
    low -= room;
    high += room;
  }
  const double range = high - low;
  const auto x_of = [&](std::size_t i) {
    return left_edge +
           (drift_width - left_edge - right_edge) * static_cast<double>(i) / static_cast<double>(values.size() - 1);
  };
  const auto y_of = [&](double value) {
    return top_edge + (drift_height - top_edge - bottom_edge) * (high - value) / range;
  };

  const std::string said = sentence(number, values);
  std::string out = fmt::format(
      "<figure class=\"drift\"><svg width=\"{0:g}\" height=\"{1:g}\" viewBox=\"0 0 {0:g} {1:g}\" role=\"img\" "
      "aria-label=\"{2}\" font-size=\"11\" fill=\"currentColor\">",
      drift_width, drift_height, text::html(said));
  const double floor = drift_height - bottom_edge;
  out += text_at(left_edge - 7, 11, "start", number.name);
  out += fmt::format(
      "<path fill=\"none\" stroke=\"currentColor\" opacity=\"0.5\" d=\"M{0:.1f},{1:.1f}V{2:.1f}H{3:.1f}\"/>", left_edge,
      top_edge, floor, drift_width - right_edge);
  for (const double value : {low, low + range / 2, high}) {
    out += fmt::format("<path stroke=\"currentColor\" opacity=\"0.5\" d=\"M{0:.1f},{1:.1f}h-4\"/>", left_edge,
                       y_of(value));
    out += text_at(left_edge - 7, y_of(value) + 4, "end", label(value, range));
  }
  out += text_at(left_edge, floor + 15, "middle", "1") +
         text_at(drift_width - right_edge, floor + 15, "end", std::to_string(values.size())) +
         text_at((left_edge + drift_width - right_edge) / 2, floor + 30, "middle",
                 "runs in which the check passed, and this one");
  if (has_recorded)
    out += fmt::format(
        "<path stroke=\"currentColor\" stroke-dasharray=\"5 4\" opacity=\"0.6\" d=\"M{:.1f},{:.1f}H{:.1f}\"/>",
        left_edge, y_of(recorded), drift_width - right_edge);
  std::string points;
  for (std::size_t i = 0; i < values.size(); ++i) points += fmt::format("{:.1f},{:.1f} ", x_of(i), y_of(values[i]));
  out += "<polyline class=\"line\" fill=\"none\" stroke-width=\"1.6\" points=\"" + points + "\"/>";
  out += fmt::format("<circle class=\"{}\" cx=\"{:.1f}\" cy=\"{:.1f}\" r=\"3.2\"/>", number.agrees ? "now" : "now off",
                     x_of(values.size() - 1), y_of(values.back()));
  out += "</svg><figcaption>" + text::html(said);
  if (has_recorded) out += text::html("; broken line: the recorded value, " + number.recorded);
  return out + "</figcaption></figure>\n";
}

}  // namespace coctilis::report
