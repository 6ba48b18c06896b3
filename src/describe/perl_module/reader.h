// The reader of modules of Perl with a compiled part: trees whose Makefile.PL says by WriteMakefile() how they are
// built. The script is run in a mirror of the tree with a module of ours in the place of the one that it loads
// (data/makefile_pl), which writes down what it is told as a makefile; that is read.
#pragma once

#include <string>

#include "describe/readers.h"

namespace coctilis::describe::perl_module {

// The package of the distribution that has a module, by its usual name ("Clay::Body": "libclay-body-perl"; Debian Perl
// Policy 4.2).
[[nodiscard]] std::string package_of_module(const std::string& module);

// "Clay::Body" of "Can't locate Clay/Body.pm in @INC ...", the first that the text has; empty: there is none.
[[nodiscard]] std::string module_not_found_in(const std::string& output);

// The line of the table of readers.
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::perl_module
