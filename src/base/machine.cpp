#include "base/machine.h"

namespace coctilis {

std::string host_processor() {
#if defined(__x86_64__)
  return "x86_64";
#elif defined(__aarch64__)
  return "aarch64";
#elif defined(__i386__)
  return "i686";
#elif defined(__riscv) && __riscv_xlen == 64
  return "riscv64";
#elif defined(__powerpc64__) && defined(__LITTLE_ENDIAN__)
  return "powerpc64le";
#elif defined(__s390x__)
  return "s390x";
#elif defined(__arm__)
  return "arm";
#else
  return {};
#endif
}

}  // namespace coctilis
