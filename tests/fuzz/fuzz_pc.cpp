// Made-up bytes as a .pc file, which is then looked up with all that it requires.
#include "fuzzing.h"
#include "locate/pc_file.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/made.pc";
  files::write(path, fuzz::text_of(data, size));
  if (const auto file = locate::parse_pc(fuzz::text_of(data, size), path); !file) fuzz::judge(file.problem());
  locate::PcSearch search;
  search.folders = {fuzz::scratch()};
  (void)locate::find_pc({"made", "", ""}, search, true);
  return 0;
}
