// Reads made-up bytes as CMakeLists.txt. A problem with a place is a good end; a defect, a crash, or work without end
// is not.
#include <cstdio>
#include <cstdlib>

#include "base/files.h"
#include "base/process.h"
#include "describe/listfile/reader.h"

namespace {

const coctilis::files::ScratchFolder& scratch() {
  static const coctilis::files::ScratchFolder folder("fuzz");
  return folder;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  static int runs = 0;
  forbid_processes();
  const std::string tree = scratch().path().string() + "/tree";
  const std::string out = scratch().path().string() + "/kiln/work";
  if (runs++ % 500 == 0) {
    std::error_code ignored;
    std::filesystem::remove_all(scratch().path() / "kiln", ignored);
  }
  // Each is read as a tree that nothing is known of.
  std::error_code error;
  std::filesystem::remove(scratch().path() / "kiln/tree.needed", error);
  files::write(tree + "/CMakeLists.txt", std::string(reinterpret_cast<const char*>(data), size));
  const model::Toolchain none;
  model::Settings settings;
  settings.jobs = 1;
  model::Survey survey;
  survey.tree = tree;
  locate::Locator locator(none, settings);
  const auto project =
      describe::listfile::read(tree + "/CMakeLists.txt", survey, locator, out, {}, {20'000, 2ULL << 30U, 20'000});
  if (!project && project.problem().exit == Exit::defect) {
    std::fprintf(stderr, "defect: %s %s\n", project.problem().what.c_str(), project.problem().cause.c_str());
    std::abort();
  }
  return 0;
}
