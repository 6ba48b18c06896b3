// What the commands that put questions to the compiler share.
#pragma once

#include <string>

#include "locate/probe.h"

namespace coctilis::describe::listfile {

class Evaluator;

// Links a probe with a library: a target with all that it hands on as far as no expression needs the plan for it, a
// path, an option, or the name behind -l.
void add_library(Evaluator& e, locate::Probe& probe, const std::string& item);

// The words of an argument of add_definitions(). One definition is taken as it stands, with the spaces of its value;
// under the old rules a value that is more than a plain word is left to the shell (CMP0005), as flags are.
[[nodiscard]] std::vector<std::string> definition_words(Evaluator& e, const std::string& argument);

}  // namespace coctilis::describe::listfile
