// Made-up bytes as what trees in Java, Go and C# are read from: project, build and module files, sources, constraints,
// patterns of paths. A problem with a place is a good end; a defect, a crash, or work without end is not.
#include "base/files.h"
#include "describe/csharp/project.h"
#include "describe/go/module.h"
#include "describe/go/source.h"
#include "describe/go/test_source.h"
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
    switch (data[0] % 10) {
      case 0: return describe::go::read_module_file(text, "go.mod").requires_.size();
      case 1: return describe::go::facts_of_source(text).imports.size();
      case 2: {
        std::string problem;
        return describe::go::holds(
                   text, [](const std::string& tag) { return tag.size() % 2 == 0; }, problem)
                   ? 1
                   : 0;
      }
      case 3: return describe::java::facts_of_source(text).imports.size();
      case 4: {
        files::write(tree + "/pom.xml", text);
        return describe::java::read_pom(tree + "/pom.xml", tree).modules.size();
      }
      case 5: {
        files::write(tree + "/yard.iml", text);
        return describe::java::read_editor_modules(tree, {tree + "/yard.iml"}).modules.size();
      }
      case 6: return describe::go::test_functions_of(text).size();
      case 7: {
        files::write(tree + "/yard.csproj", text);
        return describe::csharp::read_project(tree + "/yard.csproj", tree, false).sources.size();
      }
      case 8: {
        const auto middle = text.find('\n');
        return middle != std::string::npos && files::path_matches(text.substr(0, middle), text.substr(middle + 1)) ? 1
                                                                                                                   : 0;
      }
      default: {
        files::write(tree + "/build.xml", text);
        return describe::java::read_build_xml(tree + "/build.xml", tree).modules.size();
      }
    }
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
