// Reads descriptions in tests.
#pragma once

#include "describe/listfile/lower/lower.h"
#include "describe/listfile/reader.h"
#include "locate/toolchain.h"
#include "support.h"

namespace coctilis::test {

using describe::listfile::Declared;

class Reading {
 public:
  // The tree's CMakeLists.txt gets `text` behind the lines that every description begins with. What comes back is what
  // it declares, with the facts that a plan is made of.
  Result<Declared> read(const std::string& text,
                        const std::string& head = "cmake_minimum_required(VERSION 3.16)\nproject(yard C CXX)\n");
  // The values that message(STATUS) printed.
  std::vector<std::string> says(const std::string& text,
                                const std::string& head = "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\n");
  TreeFolder tree;
  model::Settings settings;
  static const model::Toolchain& toolchain();
};

inline const model::Toolchain& Reading::toolchain() {
  static const model::Toolchain chain = [] {
    Answers answers({});
    auto all = locate::toolchains({}, answers);
    return locate::choose(all, {}).toolchain;
  }();
  return chain;
}

inline Result<Declared> Reading::read(const std::string& text, const std::string& head) {
  tree.write("CMakeLists.txt", head + text);
  model::Survey survey;
  survey.tree = tree.path();
  locate::Locator locator(toolchain(), settings);
  auto project = describe::listfile::read(tree.path("CMakeLists.txt"), survey, locator, tree.kiln() + "/work");
  if (!project) return project.problem();
  Declared declared = *describe::listfile::lower::declared_by(*project);
  declared.facts = project->facts;
  return declared;
}

inline std::vector<std::string> Reading::says(const std::string& text, const std::string& head) {
  const auto project = read(text, head);
  if (!project) return {project.problem().place.text() + ": " + project.problem().what};
  return project->messages;
}

}  // namespace coctilis::test
