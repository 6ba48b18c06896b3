// Made-up bytes as each of the project files that editors keep. A problem with a place is a good end; a defect, a
// crash, or work without end is not.
#include "describe/editors/targets.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  namespace editors = describe::editors;
  if (size == 0) return 0;
  forbid_processes();
  const std::string tree = fuzz::scratch();
  // The first byte chooses the kind.
  struct Kind {
    const char* name;
    std::vector<editors::EditorProject> (*read)(const editors::EditorRequest&);
  };
  static const Kind kinds[] = {{"/yard.vcxproj", editors::read_vcxproj},
                               {"/yard.vcproj", editors::read_vcproj},
                               {"/yard.cbp", editors::read_cbp},
                               {"/.cproject", editors::read_cproject},
                               {"/yard.sln", editors::read_sln}};
  const Kind& kind = kinds[data[0] % 5];
  files::write(tree + kind.name, fuzz::text_of(data + 1, size - 1));
  files::write(tree + "/clay.c", "int clay;\n");
  const auto done = guarded("reading a project file of an editor", [&] {
    const editors::EditorRequest request = {tree, tree + kind.name, (data[0] & 0x80U) != 0};
    model::Project project;
    return editors::targets_of(kind.read(request), request, project).size() + 1 > 0;
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
