// How tests in Java are run: by what they are written with, as their imports tell.
#pragma once

#include <set>
#include <string>
#include <vector>

namespace coctilis::describe::java {

// What the console launcher of JUnit runs, and what it needs for that.
struct TestFrameworks {
  bool jupiter = false;  // org.junit.jupiter
  bool vintage = false;  // org.junit and junit.framework, as they were before it
  std::string other;     // one that is not run here; empty: none
  [[nodiscard]] bool any() const { return jupiter || vintage; }
};

// `imports`: of all sources.
[[nodiscard]] TestFrameworks frameworks_of(const std::set<std::string>& imports);

// Whether an archive is one of those that come with the frameworks, by its name or file name: then it is not looked for
// as the description has it.
[[nodiscard]] bool is_of_framework(const std::string& archive);

// Archives by name, without version and ending: those without which nothing runs, and those that only some releases of
// the launcher have.
[[nodiscard]] std::vector<std::string> archives_for(const TestFrameworks& frameworks);
[[nodiscard]] std::vector<std::string> further_archives();

// The options of the launcher that name the classes, a line each, as a file of options has them.
[[nodiscard]] std::string classes_to_run(const std::vector<std::string>& classes);

// The command that runs them. All paths are absolute.
[[nodiscard]] std::vector<std::string> test_command(const std::string& runtime,
                                                    const std::vector<std::string>& class_path,
                                                    const std::string& options_file);

}  // namespace coctilis::describe::java
