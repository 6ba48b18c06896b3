// Made-up bytes as coctilis.toml.
#include "fuzzing.h"
#include "survey/settings.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/coctilis.toml";
  files::write(path, fuzz::text_of(data, size));
  model::Settings settings;
  if (const auto read = survey::read_settings(path, settings); !read) fuzz::judge(read.problem());
  return 0;
}
