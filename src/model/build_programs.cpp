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

}  // namespace coctilis::model
