// The reader of trees with a configure script: runs it in a mirror of the tree, then reads the makefiles it writes.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "describe/read_request.h"
#include "model/project.h"

namespace coctilis::describe::configure {

// `request.file` is the script. It runs again only when it, what it reads, the tool chain, the options or what it wrote
// have changed; its log is `work`/../configure.log. Its checks become findings. Errors: the script fails (Exit::missing
// when it says that something is missing, else Exit::description), or its makefile is not understood.
[[nodiscard]] Result<model::Project> read(const ReadRequest& request);

// For trees that have only what a script would be generated from: says so.
[[nodiscard]] Result<model::Project> only_configure_ac(const ReadRequest& request);

// A check that a script printed: "checking for zlib.h... yes".
struct Check {
  std::string name;    // "zlib.h"
  std::string answer;  // "yes", "no", "/usr/bin/sed", "(cached) yes"
};
[[nodiscard]] std::vector<Check> checks_in(const std::string& output);
// The options that a script's --help tells of.
[[nodiscard]] std::vector<model::Option> options_in(const std::string& help);
// What a log (config.log) says of the last check that failed: its program's text and the compiler's words.
[[nodiscard]] std::string last_failure_in(const std::string& log);

}  // namespace coctilis::describe::configure
