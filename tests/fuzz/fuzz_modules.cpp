// Made-up bytes as what trees in Java and Go are read from: project and module files, sources, constraints, and
// [[finish]] tables. A problem with a place is a good end; a defect, a crash, or work without end is not.
#include "describe/go/module.h"
#include "describe/go/source.h"
#include "describe/java/module.h"
#include "describe/java/source.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  if (size == 0) return 0;
  forbid_processes();
  const std::string tree = fuzz::scratch();
  const std::string text = fuzz::text_of(data + 1, size - 1);
  // The first byte chooses the kind.
  const auto done = guarded("reading a module", [&]() -> std::size_t {
    switch (data[0] % 6) {
      case 0: return describe::go::read_module_file(text, "go.mod").requires_.size();
      case 1: return describe::go::facts_of_source(text).imports.size();
      case 2: {
        std::string problem;
        return describe::go::holds(text, [](const std::string& tag) { return tag.size() % 2 == 0; }, problem) ? 1 : 0;
      }
      case 3: return describe::java::facts_of_source(text).imports.size();
      case 4: {
        files::write(tree + "/pom.xml", text);
        return describe::java::read_pom(tree + "/pom.xml", tree).modules.size();
      }
      default: {
        files::write(tree + "/yard.iml", text);
        return describe::java::read_editor_modules(tree, {tree + "/yard.iml"}).modules.size();
      }
    }
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
