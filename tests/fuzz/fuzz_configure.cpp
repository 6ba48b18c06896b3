// Made-up bytes as what a configure script prints, tells of its options, and logs.
#include "describe/configure/reader.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string text = fuzz::text_of(data, size);
  (void)describe::configure::checks_in(text);
  (void)describe::configure::options_in(text);
  (void)describe::configure::last_failure_in(text);
  return 0;
}
