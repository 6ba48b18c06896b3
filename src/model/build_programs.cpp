#include "model/build_programs.h"

#include <filesystem>
#include <set>

namespace coctilis::model {

bool is_build_program(const std::string& program) {
  static const std::set<std::string> names = {
      "cmake",    "cmake3", "ctest", "cpack",  "make",  "gmake", "bmake",    "pmake",      "ninja",  "samu",
      "meson",    "muon",   "qmake", "qmake6", "scons", "bazel", "bazelisk", "buck",       "buck2",  "xmake",
      "premake5", "waf",    "b2",    "bjam",   "tup",   "gn",    "redo",     "xcodebuild", "msbuild"};
  return names.contains(std::filesystem::path(program).filename().string());
}

void name_tool(std::vector<std::string>& words, std::size_t at) {
  if (at >= words.size()) return;
  const std::string name = std::filesystem::path(words[at]).filename().string();
  if (name == "cmake" || name == "cmake3") words[at] = tool_word;
}

}  // namespace coctilis::model
