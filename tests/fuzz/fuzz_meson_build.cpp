// Reads made-up bytes as meson.build, and what stands behind a form feed as the list of its options. A problem with a
// place is a good end; a defect, a crash, or work without end is not.
#include "describe/meson_build/evaluator.h"
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
    files::write(tree + "/clay.c", "int main(void) { return 0; }\n");
    files::write(tree + "/inner/meson.build", "inner = static_library('inner', '../clay.c')\n");
    files::write(tree + "/subprojects/slip/meson.build", "project('slip', 'c')\nslip = declare_dependency()\n");
  }
  const std::string text = fuzz::text_of(data, size);
  const auto end = text.find('\f');
  files::write(tree + "/meson.build", text.substr(0, end));
  files::write(tree + "/meson_options.txt", end == std::string::npos ? "" : text.substr(end + 1));
  const model::Toolchain none;
  model::Settings settings;
  model::Survey survey;
  survey.tree = tree;
  locate::Locator locator(none, settings);
  const auto done = guarded("reading meson.build", [&] {
    model::Project project;
    project.tree = tree;
    project.binary_root = out;
    const describe::ReadRequest request{tree + "/meson.build", survey, locator, out, {}};
    const model::Variant variant;
    describe::meson_build::Evaluator evaluator(request, project, variant);
    evaluator.most_steps = 20'000;
    evaluator.run();
    return evaluator.lowered().units.size();
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
