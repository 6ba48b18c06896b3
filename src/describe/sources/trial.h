// Compiling sources on trial, to learn from their objects what belongs together: what each defines and wants, and with
// which options it compiles at all.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/answers.h"
#include "base/elf.h"
#include "model/toolchain.h"

namespace coctilis::describe::sources {

struct TrialSource {
  std::string path;                          // absolute
  std::string language;                      // "C", "C++", "Fortran", "Assembler"
  std::vector<std::string> options;          // definitions, folders, standards
  std::vector<std::string> further;          // options that are added one after the other until it compiles
  std::vector<std::string> trial_options;    // for the trial alone
  std::vector<std::string> defines_modules;  // Fortran
  std::vector<std::string> uses_modules;
};

struct Trial {
  bool compiled = false;
  std::vector<std::string> options;  // of `further`, with which it did
  std::vector<ElfSymbol> symbols;    // when it failed: those of the last time that it compiled, if it ever did
  bool no_compiler = false;          // the tool chain has none for its language
  std::string failure;               // the compiler's first error, with file:line
  std::string missing_module;        // the Fortran module that nobody has; empty: it failed for something else
  std::string missing_header;        // the header that it could not find; empty: it failed for something else
};

// Compiles all in the sandbox, in scratch folders, `jobs` at once, those that define modules before those that use
// them. Answers are kept in `answers` (may be null) until a file that was read changes; failures are not kept.
// `progress` is told how many are done.
[[nodiscard]] std::vector<Trial> compile_on_trial(const std::vector<TrialSource>& sources,
                                                  const model::Toolchain& toolchain, unsigned jobs, Answers* answers,
                                                  const std::function<void(std::size_t)>& progress);

}  // namespace coctilis::describe::sources
