// A tree with a meson.build that is read: what its description says, and what it comes to.
#pragma once

#include <gtest/gtest.h>

#include "describe/meson_build/evaluator.h"
#include "describe/meson_build/reader.h"
#include "reader.h"

namespace coctilis::describe::meson_build {

class MesonBuildTest : public testing::Test {
 protected:
  // What the description says to its user.
  std::vector<std::string> says(const std::string& text, const std::string& head = "project('yard', 'c')\n") {
    tree_.write("meson.build", head + text);
    survey_.tree = tree_.path();
    locate::Locator locator(test::Reading::toolchain(), settings_);
    const ReadRequest request{tree_.path("meson.build"), survey_, locator, tree_.kiln() + "/work", {}};
    auto project = reader().read(request);
    warnings_.clear();
    findings_ = locator.findings();
    if (!project) return {project.problem().place.text() + ": " + project.problem().what};
    for (const auto& one : project->warnings) warnings_.push_back(std::to_string(one.place.line) + ": " + one.what);
    project_ = *project;
    return project->messages;
  }
  // The value of an expression, as message() shows it.
  std::string value(const std::string& expression) {
    const auto all = says("message(" + expression + ")\n");
    return all.empty() ? "" : all.front();
  }
  std::string problem(const std::string& text) {
    const auto all = says(text);
    return all.empty() ? "" : all.back();
  }
  model::Build build() { return project_.facts->build_with(test::Reading::toolchain()); }
  const model::Unit& unit(const std::string& name) {
    build_ = build();
    for (const auto& one : build_.units) {
      if (one.name == name) return one;
    }
    ADD_FAILURE() << name << " is no unit";
    static const model::Unit none;
    return none;
  }

  test::TreeFolder tree_;
  model::Settings settings_;
  model::Survey survey_;
  model::Project project_;
  model::Build build_;
  std::vector<std::string> warnings_;
  std::vector<model::Finding> findings_;
};

}  // namespace coctilis::describe::meson_build
