#include <zlib.h>

#include <stdexcept>

#include "kilns/kilns.h"

namespace kiln {

std::size_t log_size(const std::vector<Result>& results) {
  std::string text;
  for (const auto& result : results) {
    for (const double celsius : result.firing.by_hour) text += result.kiln + " " + std::to_string(celsius) + "\n";
  }
  uLongf size = compressBound(text.size());
  std::vector<Bytef> out(size);
  if (compress(out.data(), &size, reinterpret_cast<const Bytef*>(text.data()), text.size()) != Z_OK) throw std::runtime_error("the log cannot be compressed");
  return size;
}

}  // namespace kiln
