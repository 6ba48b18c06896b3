// Reads made-up bytes as a project file (*.pro) and works it out. A problem with a place is a good end; a defect, a
// crash, or work without end is not.
#include "describe/pro/evaluator.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  forbid_processes();
  const std::string tree = fuzz::scratch();
  files::write(tree + "/yard.pro", fuzz::text_of(data, size));
  const auto done = guarded("reading a project file", [&] {
    describe::pro::Surroundings out;
    out.tree = tree;
    out.work = tree + "/kiln/work";
    out.initial["CONFIG"] = {"release", "unix", "linux"};
    out.properties["QT_INSTALL_BINS"] = "/opt/tools/bin";
    out.installed_feature = [](const std::string&) { return std::string{}; };
    out.compiles = [](const std::string&, const std::string&) { return true; };
    out.has_module = [](const std::string&) { return true; };
    out.has_package = [](const std::string&) { return false; };
    out.run = [](const std::string&, const std::string&) { return std::make_pair(std::string("one two\n"), true); };
    out.warn = [](const Place&, const std::string&) {};
    out.say = [](const std::string&) {};
    describe::pro::Evaluator evaluator(out, tree + "/yard.pro");
    evaluator.run();
    return evaluator.values("SOURCES").size() + evaluator.substituted("$$SOURCES $${TARGET}").size() > 0;
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
