#include "base/shared_library.h"

#include <dlfcn.h>

#include <string>

#include "base/result.h"

namespace coctilis {

void* SharedLibrary::function(const char* function) const {
  // Opening one that is open already gives the same again.
  void* const library = ::dlopen(name_, RTLD_NOW | RTLD_LOCAL);
  void* const found = library == nullptr ? nullptr : ::dlsym(library, function);
  if (found != nullptr) return found;
  const char* const why = ::dlerror();
  throw Fault({Exit::missing,
               {},
               std::string("the shared library '") + name_ + "', which Coctilis itself needs, cannot be used",
               why == nullptr ? "" : why,
               "install it, or build Coctilis again on this system",
               {}});
}

}  // namespace coctilis
