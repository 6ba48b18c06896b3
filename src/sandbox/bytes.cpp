// The bytes of the small program, as it was linked.
#include "sandbox/bytes.h"

// COCTILIS_SANDBOX_PROGRAM is its path, in quotes.
__asm__(
    ".pushsection .rodata\n"
    ".balign 16\n"
    ".globl coctilis_sandbox_begin\n"
    "coctilis_sandbox_begin:\n"
    ".incbin " COCTILIS_SANDBOX_PROGRAM
    "\n"
    ".globl coctilis_sandbox_end\n"
    "coctilis_sandbox_end:\n"
    ".popsection\n");

extern "C" const char coctilis_sandbox_begin[];
extern "C" const char coctilis_sandbox_end[];

namespace coctilis::sandbox {
std::string_view program_bytes() {
  return {coctilis_sandbox_begin, static_cast<std::size_t>(coctilis_sandbox_end - coctilis_sandbox_begin)};
}
}  // namespace coctilis::sandbox
