// Made-up bytes as an object file, a library or an archive of objects.
#include "base/elf.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/made";
  files::write(path, fuzz::text_of(data, size));
  (void)read_elf(path);
  return 0;
}
