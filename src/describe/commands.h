// Tells what a command line of a description does: does it compile, archive or link, and what?
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"

namespace coctilis::describe {

struct Understood {
  model::StepKind kind = model::StepKind::custom;
  std::string language;              // of a compilation
  std::vector<std::string> sources;  // absolute
  std::string output;                // absolute
  std::string depfile;               // absolute: the file of header dependencies that the command itself writes
  bool shared = false;               // of a link: a shared library
  std::vector<std::string> argv;     // of the compiler, archiver or linker itself
  std::string folder;
};

// `command` is given to a shell in `folder` (absolute). Lines that do several things, or that only a shell can work
// out, are understood as far as their parts are plain: "cd a && cc -c b.c" is; what is not, stays custom.
[[nodiscard]] std::vector<Understood> understand(const std::string& command, const std::string& folder);

// The same for a command that is divided into words already, and runs without a shell.
[[nodiscard]] std::vector<Understood> understand(const std::vector<std::string>& words, const std::string& folder);

// True when the command needs no shell: words, quoted or not, and nothing that a shell would treat on its own. `words`
// gets them without their quotes.
[[nodiscard]] bool is_plain(const std::string& command, std::vector<std::string>& words);

// The command without '' and "" behind a part of the same word, which a shell takes away: -DX='' is -DX=. Trees that
// write their own options down and read them again write the same option in both ways.
[[nodiscard]] std::string without_empty_quotes(const std::string& command);

}  // namespace coctilis::describe
