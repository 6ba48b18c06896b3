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
  std::string dependency_file;       // absolute: the file of header dependencies that the command itself writes
  bool tells_all = false;            // these are all headers; else those of the system are not among them
  bool asks = false;                 // the command says in some way that dependencies are to be written
  bool wrapped = false;              // another program starts the compiler, or does without it
  bool shared = false;               // of a link: a shared library
  std::vector<std::string> argv;     // of the compiler, archiver or linker itself
  std::string folder;
};

// A line of a recipe or script, divided as a shell does it.
struct Divided {
  std::vector<std::vector<std::string>>
      commands;        // empty: a shell's own words steer it, or only a shell can work it out
  bool plain = false;  // one command that needs no shell: its words, unquoted, are all there is
};
[[nodiscard]] Divided divide(const std::string& line);

// What the commands do, one after the other in `folder` (absolute). Lines that do several things are understood as far
// as their parts are plain: "cd a && cc -c b.c" is; what is not, stays custom.
[[nodiscard]] std::vector<Understood> understand(const std::vector<std::vector<std::string>>& commands,
                                                 const std::string& folder);
[[nodiscard]] std::vector<Understood> understand(const std::string& line, const std::string& folder);

// The command without '' and "" behind a part of the same word, which a shell takes away: -DX='' is -DX=. Trees that
// write their own options down and read them again write the same option in both ways.
[[nodiscard]] std::string without_empty_quotes(const std::string& command);

}  // namespace coctilis::describe
