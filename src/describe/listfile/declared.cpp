#include "describe/listfile/declared.h"

namespace coctilis::describe::listfile {

namespace {
struct Name {
  const char* key;
  const char* language;
};
constexpr Name language_names[] = {
    {"C", "C"}, {"CXX", "C++"}, {"Fortran", "Fortran"}, {"ASM", assembler}, {"ASM_NASM", plain_assembler}};
}  // namespace

std::string language_named(const std::string& key) {
  for (const auto& name : language_names) {
    if (key == name.key) return name.language;
  }
  return {};
}

std::string key_of_language(const std::string& language) {
  for (const auto& name : language_names) {
    if (language == name.language) return name.key;
  }
  return language;
}

}  // namespace coctilis::describe::listfile
