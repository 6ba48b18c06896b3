#include "report/figures/drawing.h"

#include <fmt/format.h>

#include <cmath>

#include "base/text.h"

namespace coctilis::report {

void Drawing::box(Ink ink, double x, double y, double w, double h, std::string tells) {
  shapes.push_back({Shape::Kind::box, ink, x, y, w, h});
  shapes.back().text = std::move(tells);
}

void Drawing::frame(Ink ink, double x, double y, double w, double h, std::string tells) {
  box(ink, x, y, w, h, std::move(tells));
  shapes.back().hollow = true;
}

void Drawing::line(Ink ink, double x1, double y1, double x2, double y2, bool dashed) {
  shapes.push_back({Shape::Kind::line, ink, x1, y1, x2, y2});
  shapes.back().dashed = dashed;
}

void Drawing::way(Ink ink, std::vector<double> points, std::string tells, bool dashed) {
  shapes.push_back({Shape::Kind::way, ink});
  shapes.back().points = std::move(points);
  shapes.back().text = std::move(tells);
  shapes.back().dashed = dashed;
}

void Drawing::write(Ink ink, double x, double y, std::string text, Anchor anchor, bool strong) {
  shapes.push_back({Shape::Kind::text, ink, x, y});
  shapes.back().anchor = anchor;
  shapes.back().strong = strong;
  shapes.back().text = std::move(text);
}

double width_of(const std::string& text) { return 0.62 * letter_size * static_cast<double>(text::columns(text)); }

std::string fitted(const std::string& text, double width) {
  if (width_of(text) <= width) return text;
  const auto most = static_cast<std::size_t>(std::max(4.0, width / (0.62 * letter_size)));
  // The end of a path tells more than its beginning.
  const std::string shown = text::printable_line(text);
  if (shown.size() <= most) return shown;
  auto begin = shown.size() - (most - 2);
  while (begin < shown.size() && (static_cast<unsigned char>(shown[begin]) & 0xC0U) == 0x80U) ++begin;
  return ".." + shown.substr(begin);
}

std::vector<double> marks_up_to(double most) {
  std::vector<double> out = {0};
  if (!(most > 0) || !std::isfinite(most)) return out;
  const double rough = most / 5;
  const double power = std::pow(10.0, std::floor(std::log10(rough)));
  double step = power;
  for (const double one : {1.0, 2.0, 5.0, 10.0}) {
    step = one * power;
    if (step >= rough) break;
  }
  for (int i = 1; i * step <= most * 1.0001 && i < 20; ++i) out.push_back(i * step);
  return out;
}

std::string csv(const std::string& value) {
  const std::string shown = text::printable_line(value);
  if (shown.find_first_of(",\"\n") == std::string::npos) return shown;
  return "\"" + text::replace_all(shown, "\"", "\"\"") + "\"";
}

namespace {

const char* name_of(Ink ink) {
  static const char* const names[] = {"text", "soft", "line", "first", "second", "third", "good", "bad"};
  return names[static_cast<int>(ink)];
}

std::string element_of(const Shape& shape) {
  const std::string tells =
      shape.text.empty() || shape.kind == Shape::Kind::text ? "" : "<title>" + text::html(shape.text) + "</title>";
  const std::string classes = std::string("ink-") + name_of(shape.ink);
  const char* const dashes = shape.dashed ? " stroke-dasharray=\"4 3\"" : "";
  switch (shape.kind) {
    case Shape::Kind::box:
      return fmt::format("<rect class=\"{}{}\" x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.2f}\" height=\"{:.1f}\">{}</rect>",
                         classes, shape.hollow ? " hollow" : "", shape.x, shape.y, shape.width, shape.height, tells);
    case Shape::Kind::line:
      return fmt::format("<path class=\"{} hollow\"{} d=\"M{:.1f},{:.1f}L{:.1f},{:.1f}\"/>", classes, dashes, shape.x,
                         shape.y, shape.width, shape.height);
    case Shape::Kind::text: {
      static const char* const anchors[] = {"start", "middle", "end"};
      return fmt::format("<text class=\"{}\" x=\"{:.1f}\" y=\"{:.1f}\" text-anchor=\"{}\"{}>{}</text>", classes,
                         shape.x, shape.y, anchors[static_cast<int>(shape.anchor)],
                         shape.strong ? " font-weight=\"bold\"" : "", text::html(shape.text));
    }
    case Shape::Kind::way: {
      std::string d;
      for (std::size_t i = 0; i + 1 < shape.points.size(); i += 2)
        d += fmt::format("{}{:.1f},{:.1f}", i == 0 ? "M" : "L", shape.points[i], shape.points[i + 1]);
      return fmt::format("<path class=\"{} hollow\"{} d=\"{}\">{}</path>", classes, dashes, d, tells);
    }
  }
  return {};
}

}  // namespace

std::string as_element(const Figure& figure) {
  std::string out = fmt::format(
      "<figure class=\"drawn\"><figcaption><b>{}</b>. {}</figcaption><svg viewBox=\"0 0 {:g} {:g}\" width=\"{:g}\" "
      "role=\"img\" aria-label=\"{}\" font-size=\"{:g}\">",
      text::html(figure.title), text::html(figure.sentence), figure.drawing.width, figure.drawing.height,
      figure.drawing.width, text::html(figure.title), letter_size);
  for (const auto& shape : figure.drawing.shapes) out += element_of(shape);
  return out + "</svg></figure>\n";
}

}  // namespace coctilis::report
