// Made-up bytes as what inner makes noted of their steps, whole and behind a note's own head.
#include "base/packing.h"
#include "fuzzing.h"
#include "pipeline/inner_make.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/steps";
  std::vector<model::Step> steps;
  std::vector<model::StepResult> results;
  files::write(path, fuzz::text_of(data, size));
  pipeline::take_inner_steps(fuzz::scratch(), steps, results);
  // What stands in the frame, without having to find the hash that the frame is checked by.
  model::Step step;
  try {
    unpack(fuzz::text_of(data, size), step);
  } catch (const std::exception&) {  // NOLINT: it is no step
  }
  model::StepResult result;
  try {
    unpack(fuzz::text_of(data, size), result);
  } catch (const std::exception&) {  // NOLINT: it is no result
  }
  return 0;
}
