// Small operations on files that descriptions ask for by name: copying, making folders, comparing, ... Done here
// instead of starting a program; nothing outside one folder is written.
#pragma once

#include <string>
#include <unordered_set>
#include <vector>

namespace coctilis::files {

// True when `name` is an operation ("copy", "make_directory", "rm", "touch", "create_symlink", ...).
[[nodiscard]] bool is_operation(const std::string& name);

// Does argv[0] with the operands that follow; relative paths count from `folder`; nothing outside `writable` is
// written. Returns the exit code that the operation stands for and adds what it prints to `output`. Never throws.
[[nodiscard]] int run_operation(const std::vector<std::string>& argv, const std::string& folder,
                                const std::string& writable, std::string& output);

// Adds the files that an operation would read to `read`, and folders that it would take whole to `listed`, absolute.
void add_read_by_operation(const std::vector<std::string>& argv, const std::string& folder,
                           std::unordered_set<std::string>& read, std::unordered_set<std::string>& listed);

}  // namespace coctilis::files
