// How a number went over the runs.
#include "report/drift_figure.h"

#include <gtest/gtest.h>

namespace coctilis::report {
namespace {

model::CheckNumber number(const std::string& now, std::vector<double> before, const std::string& recorded = {}) {
  model::CheckNumber out;
  out.name = "peak <of the curve>";
  out.text = now;
  out.recorded = recorded;
  out.good_values = std::move(before);
  return out;
}
bool has(const std::string& text, const std::string& what) { return text.find(what) != std::string::npos; }

TEST(DriftFigure, OneRunIsNone) {
  const auto out = drift_figure(number("1222", {}));
  EXPECT_FALSE(has(out, "<svg"));
  EXPECT_TRUE(has(out, "peak &lt;of the curve&gt;: one run so far")) << out;
}
TEST(DriftFigure, TheSameIsALine) {
  EXPECT_TRUE(has(drift_figure(number("1222", {1222, 1222})), "the same in all 3 runs"));
  EXPECT_TRUE(has(drift_figure(number("0", {0})), "the same in all 2 runs"));
}
TEST(DriftFigure, SmallChangesAreToldApart) {
  const auto out = drift_figure(number("1222.0009", {1222, 1222.0004, 1222.0006}, "1222"));
  EXPECT_TRUE(has(out, "between 1222 and 1222.0009 in 4 runs")) << out;
  EXPECT_TRUE(has(out, "+0.0003 against the run before; it drifts: +0.0009 since the first")) << out;
  EXPECT_TRUE(has(out, "broken line: the recorded value, 1222")) << out;
}
TEST(DriftFigure, WhatGoesUpAndDownDoesNotDrift) {
  EXPECT_FALSE(has(drift_figure(number("1221", {1220, 1222, 1220, 1222})), "drifts"));
}
TEST(DriftFigure, WhatIsNoNumberIsLeftOut) {
  EXPECT_TRUE(has(drift_figure(number("nan", {1, 2})), "in 2 runs"));
  EXPECT_TRUE(has(drift_figure(number("inf", {})), "one run so far"));
}

}  // namespace
}  // namespace coctilis::report
