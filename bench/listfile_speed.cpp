// listfile_speed: a million simple commands of the language (a nested loop with math and list), against a second.
#include <fmt/format.h>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/reader.h"

int main() {
  using namespace coctilis;
  const files::ScratchFolder scratch("bench");
  const std::string tree = scratch.path().string() + "/tree";
  files::write(
      tree + "/CMakeLists.txt",
      "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nset(sum 0)\n"
      "foreach(i RANGE 1 500)\n  set(bricks)\n  foreach(k RANGE 1 1000)\n    math(EXPR sum \"${sum} + ${k}\")\n"
      "    list(APPEND row ${k})\n  endforeach()\n  set(row)\nendforeach()\nmessage(STATUS ${sum})\n");
  const model::Toolchain none;
  const model::Settings settings;
  model::Survey survey;
  survey.tree = tree;
  locate::Locator locator(none, settings);
  const double begin = now();
  const auto project =
      describe::listfile::read(tree + "/CMakeLists.txt", survey, locator, scratch.path().string() + "/out");
  const double seconds = now() - begin;
  if (!project || project->messages.empty() || project->messages.back() != "250250000") return 1;
  fmt::print("a million simple commands: {}, {:.2f} of the limit of 1 s\n", text::duration(seconds), seconds);
  return 0;
}
