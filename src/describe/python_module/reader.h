// The reader of extension modules of Python: trees whose setup.py says by setup() how they are built. The script is run
// in a mirror of the tree with modules of ours in the place of those that it loads (data/setup_py), which copy what is
// not compiled and write down the rest as a makefile; that is read.
#pragma once

#include <string>

#include "describe/readers.h"

namespace coctilis::describe::python_module {

// The package of the distribution that has a module, by its usual name ("Clay_Body": "python3-clay-body"; Debian Python
// Policy 4.3).
[[nodiscard]] std::string package_of_module(const std::string& module);

// "clay" of "ModuleNotFoundError: No module named 'clay.body'", the first that the text has; empty: there is none.
[[nodiscard]] std::string module_not_found_in(const std::string& output);

// The line of the table of readers.
[[nodiscard]] Reader reader();

}  // namespace coctilis::describe::python_module
