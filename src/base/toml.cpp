// The TOML library's own code, compiled once. What it holds for certain without a look ("a table's header begins with a
// key") is not so in files of a hostile tree: it aborts there, or lets the compiler build on it. Its next line looks and
// reports; so its assertions are neither checked nor built on.
#undef NDEBUG
#define TOML_ASSERT(expression) static_cast<void>(0)
#define TOML_IMPLEMENTATION
#include "base/toml.h"
