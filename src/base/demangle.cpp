#include "base/demangle.h"

#include <cxxabi.h>

#include <cstdlib>
#include <memory>

namespace coctilis {

std::string demangled(const std::string& symbol) {
  if (!symbol.starts_with("_Z")) return symbol;
  int status = 0;
  const std::unique_ptr<char, decltype(&std::free)> plain(
      abi::__cxa_demangle(symbol.c_str(), nullptr, nullptr, &status), &std::free);
  return status == 0 && plain != nullptr ? std::string(plain.get()) : symbol;
}

}  // namespace coctilis
