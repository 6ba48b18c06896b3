// What the commands that put questions to the compiler share.
#pragma once

#include <string>

#include "locate/probe.h"

namespace coctilis::describe::listfile {

class Evaluator;

// Links a probe with a library: a target with all that it hands on as far as no expression needs the plan for it, a
// path, an option, or the name behind -l.
void add_library(Evaluator& e, locate::Probe& probe, const std::string& item);

}  // namespace coctilis::describe::listfile
