#include "describe/java/test_run.h"

#include <algorithm>
#include <filesystem>

#include "base/text.h"

namespace coctilis::describe::java {

TestFrameworks frameworks_of(const std::set<std::string>& imports) {
  TestFrameworks out;
  for (const auto& import : imports) {
    if (import.starts_with("org.junit.jupiter."))
      out.jupiter = true;
    else if (import.starts_with("org.junit.platform."))
      continue;
    else if (import.starts_with("org.junit.") || import.starts_with("junit.framework."))
      out.vintage = true;
    else if (import.starts_with("org.testng."))
      out.other = "TestNG";
    else if (import.starts_with("spock."))
      out.other = "Spock";
  }
  return out;
}

bool is_of_framework(const std::string& archive) {
  std::string name = text::lower(std::filesystem::path(archive).filename().string());
  if (name.ends_with(".jar")) name.resize(name.size() - 4);
  static const std::vector<std::string> others = {"hamcrest-core", "opentest4j", "apiguardian-api"};
  // junit, junit4, junit-4.13, junit5.8, junit-jupiter-api-5.9; and no such thing as junit-addons.
  if (name.starts_with("junit")) {
    const std::string rest = name.substr(5);
    return rest.find_first_not_of("-.0123456789") == std::string::npos || rest.starts_with("-jupiter") ||
           rest.starts_with("-platform") || rest.starts_with("-vintage");
  }
  return std::any_of(others.begin(), others.end(), [&](const auto& begin) { return name.starts_with(begin); });
}

std::vector<std::string> archives_for(const TestFrameworks& frameworks) {
  std::vector<std::string> out = {"junit-platform-console",   "junit-platform-launcher",
                                  "junit-platform-engine",    "junit-platform-commons",
                                  "junit-platform-reporting", "opentest4j",
                                  "apiguardian-api",          "picocli"};
  if (frameworks.jupiter) out.insert(out.end(), {"junit-jupiter-api", "junit-jupiter-engine", "junit-jupiter-params"});
  if (frameworks.vintage) out.insert(out.end(), {"junit-vintage-engine", "junit4", "hamcrest"});
  return out;
}

std::vector<std::string> further_archives() {
  return {"opentest4j-reporting-events", "opentest4j-reporting-schema", "univocity-parsers"};
}

std::string classes_to_run(const std::vector<std::string>& classes) {
  std::string out;
  for (const auto& one : classes) out += "--select-class=" + one + "\n";
  return out;
}

std::vector<std::string> test_command(const std::string& runtime, const std::vector<std::string>& class_path,
                                      const std::string& options_file) {
  return {runtime, "-cp", text::join(class_path, ":"), "org.junit.platform.console.ConsoleLauncher", "--disable-banner",
          "--disable-ansi-colors", "--details=summary",
          // Nothing that was run has not passed.
          "--fail-if-no-tests", "@" + options_file};
}

}  // namespace coctilis::describe::java
