// Made-up bytes as what a compiler says of the headers that it read, and as what it prints.
#include "base/dependency_file.h"
#include "engine/diagnostics.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  (void)parse_dependency_file(fuzz::text_of(data, size));
  (void)engine::find_diagnostics(fuzz::text_of(data, size), 0);
  return 0;
}
