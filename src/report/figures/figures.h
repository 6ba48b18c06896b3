// The figures of a run: a file each in this folder, and a line in the table of figures.cpp.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "report/figures/course.h"
#include "report/figures/drawing.h"

namespace coctilis::report {

// A run and those before it in the same kiln, oldest first.
struct Material {
  Course run;
  std::vector<Course> before;
};

// Each gives nothing where the run has nothing that it could show.
[[nodiscard]] std::optional<Figure> timeline_figure(const Material& material);
[[nodiscard]] std::optional<Figure> members_timeline_figure(const Material& material);
[[nodiscard]] std::optional<Figure> members_figure(const Material& material);
[[nodiscard]] std::optional<Figure> spent_by_target_figure(const Material& material);
[[nodiscard]] std::optional<Figure> spent_by_source_figure(const Material& material);
[[nodiscard]] std::optional<Figure> spent_by_header_figure(const Material& material);
[[nodiscard]] std::optional<Figure> spent_by_stage_figure(const Material& material);
[[nodiscard]] std::optional<Figure> targets_figure(const Material& material);
[[nodiscard]] std::optional<Figure> sizes_figure(const Material& material);
[[nodiscard]] std::optional<Figure> history_figure(const Material& material);
[[nodiscard]] std::optional<Figure> languages_figure(const Material& material);
[[nodiscard]] std::optional<Figure> folders_figure(const Material& material);

// All that the run has something for, in the order in which a page shows them.
[[nodiscard]] std::vector<Figure> figures_of(const Material& material);

// Bars that lie below each other, each with its name before it and its value behind it.
struct NamedBar {
  std::string name;
  std::vector<std::pair<Ink, double>> parts;  // one after the other
  std::string shown;                          // the value, for people
};
// `axis`: what the bars' length means, with its unit.
[[nodiscard]] Drawing bars_drawing(const std::vector<NamedBar>& bars, const std::string& axis);
// What inks mean, in a row at that height.
void write_legend(Drawing& drawing, double x, double y, const std::vector<std::pair<Ink, std::string>>& entries);

inline constexpr double figure_width = 960;

}  // namespace coctilis::report
