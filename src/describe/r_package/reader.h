// The reader of packages of R: the compiled part of a tree with a DESCRIPTION and sources in src/. What lies there is
// compiled and linked into one module, by the rules of its Makevars (Writing R Extensions, "Using Makevars"): a
// makefile with these rules is put beside it in a mirror of the tree, and read.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/readers.h"

namespace coctilis::describe::r_package {

// The fields of a DESCRIPTION, by name: "Name: value", continued in lines that begin with white space, which become one
// space. Lines that are neither are skipped; of a field that is there twice the first counts.
[[nodiscard]] std::map<std::string, std::string> fields_in(const std::string& text);

// Names of packages in the value of such a field, each with its constraint: "clays (>= 1.0), glazes". The language
// itself is one of them (R). "==" is told as "=". What has another form is skipped.
struct Needed {
  std::string name;
  std::string constraint;
};
[[nodiscard]] std::vector<Needed> needed_in(const std::string& value);

// The line of the table of readers.
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::r_package
