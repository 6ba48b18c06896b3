// What a listfile gives and asks for by name, read without running it: a look ahead over many of them, to tell which
// come first.
#pragma once

#include <string>

#include "survey/names.h"

namespace coctilis::describe::listfile {

// Adds what the calls of a file at `path` say, in whatever branch they stand. A file that is not well formed says
// nothing here: whoever reads it says why.
void names_in(const std::string& path, survey::Names& names);

}  // namespace coctilis::describe::listfile
