// Small operations on files that descriptions ask for by name: copying, making folders, comparing, ... Done here
// instead of starting a program; nothing outside one folder is written.
#pragma once

#include <string>
#include <vector>

namespace coctilis::files {

// True when `name` is an operation ("copy", "make_directory", "rm", "touch", "create_symlink", ...).
[[nodiscard]] bool is_operation(const std::string& name);

// Does argv[0] with the operands that follow; relative paths count from `folder`; nothing outside `writable` is
// written. Returns the exit code that the operation stands for and adds what it prints to `output`. Never throws.
[[nodiscard]] int run_operation(const std::vector<std::string>& argv, const std::string& folder,
                                const std::string& writable, std::string& output);

}  // namespace coctilis::files
