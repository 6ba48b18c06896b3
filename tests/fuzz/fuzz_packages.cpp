// Made-up bytes as what a member of a tree says of itself: its manifest, a list of repositories, a listfile that is
// only looked at for names, and what commands name. A problem with a place is a good end; a defect, a crash, or work
// without end is not.
#include "describe/readers.h"
#include "fuzzing.h"
#include "survey/relations.h"
#include "survey/repository_list.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  if (size == 0) return 0;
  forbid_processes();
  const std::string tree = fuzz::scratch();
  // The first byte chooses the kind.
  const char* names[] = {"/clay/package.xml", "/yard.repos", "/clay/CMakeLists.txt", "/clay/Makefile",
                         "/clay/clay.pc.in"};
  files::write(tree + "/clay/Makefile", "clay:\n");
  files::write(tree + "/glaze/package.xml",
               "<package><name>glaze</name><version>1</version><depend>clay</depend></package>");
  for (const char* name : names) {
    std::error_code error;
    if (std::string_view(name) != "/clay/Makefile") std::filesystem::remove(tree + name, error);
  }
  files::write(tree + names[data[0] % 5], fuzz::text_of(data + 1, size - 1));
  const auto done = guarded("reading what members say", [&] {
    model::Settings settings;
    if (const auto read = survey::read_repository_lists(tree, settings); !read) throw Fault(read.problem());
    const std::vector<std::string> folders = {"clay", "glaze"};
    std::vector<survey::Package> packages;
    for (const auto& folder : folders) {
      const auto package = survey::package_in(tree, folder, describe::description_formats(), folders);
      if (!package) throw Fault(package.problem());
      packages.push_back(*package);
    }
    const auto relations = survey::relations_of(packages, (data[0] & 0x80U) != 0);
    if (!relations) throw Fault(relations.problem());
    return relations->order.size();
  });
  if (!done) fuzz::judge(done.problem());
  return 0;
}
