// Shared libraries that are opened when a function of theirs is first called: few runs need them, and opening them,
// with all that they need in turn, takes longer than most of what a run has to do when nothing has changed.
#pragma once

namespace coctilis {

class SharedLibrary {
 public:
  // `name` as the loader looks it up (its soname), such as "libgit2.so.1.5". Opens nothing yet.
  explicit constexpr SharedLibrary(const char* name) : name_(name) {}
  // Where a function of it lies; never nothing. Throws Fault (Exit::missing) when the library or the function is not
  // there. Once opened it stays so. May be called from several threads.
  [[nodiscard]] void* function(const char* function) const;

 private:
  const char* name_;
};

}  // namespace coctilis

// The function `name`, which a header declares, of that library; for headers that put it in the place of the name.
// (A macro: the address depends on the name as a text, and the type on the name as a declaration.)
#define COCTILIS_FUNCTION_OF(library, name)                                                               \
  ([]() -> decltype(&::name) {                                                                            \
    static const auto function_in_library = reinterpret_cast<decltype(&::name)>(library.function(#name)); \
    return function_in_library;                                                                           \
  }())
