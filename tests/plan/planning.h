// Plans descriptions in tests.
#pragma once

#include "describe/reader.h"
#include "plan/planner.h"

namespace coctilis::test {

class PlanTest : public testing::Test {
 protected:
  model::Plan plan(const std::string& text) {
    auto project = reading_.read(text);
    EXPECT_TRUE(project.ok()) << (project.ok() ? "" : project.problem().place.text() + project.problem().what);
    if (!project) return {};
    auto made = plan::make_plan(*project, Reading::toolchain(), settings(), reading_.tree.kiln());
    EXPECT_TRUE(made.ok()) << (made.ok() ? "" : made.problem().what);
    return made ? *made : model::Plan{};
  }
  Problem refused(const std::string& text) {
    auto project = reading_.read(text);
    if (!project) return project.problem();
    auto made = plan::make_plan(*project, Reading::toolchain(), settings(), reading_.tree.kiln());
    return made ? Problem{} : made.problem();
  }
  static model::Settings settings() {
    model::Settings out;
    out.variants["release"] = {"release", "release", {}, {}};
    return out;
  }
  void sources(const std::vector<std::string>& names) {
    for (const auto& name : names) reading_.tree.write(name, "int f(void);\n");
  }
  static std::string command(const model::Plan& plan, const std::string& subject,
                             model::StepKind kind = model::StepKind::compile) {
    for (const auto& step : plan.steps) {
      if (step.kind != kind || step.subject != subject) continue;
      std::string out;
      for (const auto& action : step.actions) out += " " + action.text();
      return out + " ";
    }
    return "no step " + subject;
  }
  static const model::Step* step(const model::Plan& plan, const std::string& subject) {
    for (const auto& s : plan.steps) {
      if (s.subject == subject) return &s;
    }
    return nullptr;
  }
  std::string tree(const std::string& below = {}) const { return reading_.tree.path(below); }
  std::string work(const std::string& below) const { return reading_.tree.kiln() + "/work/" + below; }
  Reading reading_;
};

}  // namespace coctilis::test

#define HAS(text, part) EXPECT_NE((text).find(part), std::string::npos) << (text)
#define HAS_NOT(text, part) EXPECT_EQ((text).find(part), std::string::npos) << (text)
