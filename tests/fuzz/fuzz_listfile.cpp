// Reads made-up bytes as CMakeLists.txt. A problem with a place is a good end; a defect, a crash, or work without end
// is not.
#include "describe/listfile/reader.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  static int runs = 0;
  forbid_processes();
  const std::string tree = fuzz::scratch() + "/tree";
  const std::string out = fuzz::scratch() + "/kiln/work";
  if (runs++ % 500 == 0) {
    std::error_code ignored;
    std::filesystem::remove_all(fuzz::scratch() + "/kiln", ignored);
  }
  // Each is read as a tree that nothing is known of.
  std::error_code error;
  std::filesystem::remove(fuzz::scratch() + "/kiln/tree.needed", error);
  files::write(tree + "/CMakeLists.txt", fuzz::text_of(data, size));
  const model::Toolchain none;
  model::Settings settings;
  settings.jobs = 1;
  model::Survey survey;
  survey.tree = tree;
  locate::Locator locator(none, settings);
  const auto project =
      describe::listfile::read(tree + "/CMakeLists.txt", survey, locator, out, {}, {20'000, 2ULL << 30U, 20'000});
  if (!project) fuzz::judge(project.problem());
  return 0;
}
