// What the sources of a target are compiled with, from its properties and those of what it uses.
#pragma once

#include <string>
#include <vector>

#include "describe/listfile/lower/usage.h"

namespace coctilis::describe::listfile::lower {

class Compilations {
 public:
  // All must outlive this.
  Compilations(const Declared& project, const Usage& usage) : project_(project), usage_(usage) {}

  // `language`: "C", "C++", "Assembler", "Fortran" or one of the project's other compilers. Throws Fault
  // (Exit::description) for a standard that is not known.
  [[nodiscard]] model::CompileSettings of(const Target& target, const std::string& language) const;
  // What stands before a folder of the tree: the one for files that the description wrote there. Empty: none does.
  [[nodiscard]] std::string overlay_of(const std::string& folder) const;
  // True when objects are kept in a form that is optimised once all are known.
  [[nodiscard]] bool optimises_when_linking(const Target& target) const;

 private:
  void take_properties(const Target& target, const std::string& language, model::CompileSettings& out) const;

  const Declared& project_;
  const Usage& usage_;
};

// Form and preprocessing of Fortran sources, as properties of a target or a source say it.
[[nodiscard]] model::SourceForm source_form(const std::string& property);
[[nodiscard]] model::Preprocessing preprocessing(const std::string& property);

}  // namespace coctilis::describe::listfile::lower
