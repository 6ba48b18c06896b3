// Small questions put to a compiler: does this compile, link, run?
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/answers.h"
#include "model/toolchain.h"

namespace coctilis::locate {

struct Probe {
  enum class How { compile, link, run };
  How how = How::compile;
  std::string language = "C";  // "C", "C++" or "Fortran"
  std::string source;          // the program's text
  // Further files of the program, name and text; what the names end with tells the language. Answers about more than
  // one file are not kept.
  std::vector<std::pair<std::string, std::string>> more_sources;
  bool wants_result = false;  // Answer::object gets the program that was linked, too
  // When it is run: its arguments, and the folder it starts in (absolute; empty: the scratch folder).
  std::vector<std::string> arguments;
  std::string run_folder;
  std::vector<std::string> compile_options;
  std::vector<std::string> link_options;  // before and after: options first, then libraries
};

struct Answer {
  bool compiled = false;  // and linked, where that was asked
  bool ran = false;       // it ran and ended by itself
  int exit = -1;
  std::string output;      // of the compiler
  std::string run_output;  // of the program
  std::string object;      // bytes of what was made (compile only, or as wished), for questions that read the result
  bool kept = false;       // known from before; no compiler was started
};

// The compiler's command line for a probe, with file names relative to the scratch folder it runs in.
[[nodiscard]] std::vector<std::string> command_of(const Probe& probe, const model::Toolchain& toolchain);
// All that the answer to a probe hangs on, but for the files it reads: what kept answers go by.
[[nodiscard]] std::string question_of(const Probe& probe, const model::Toolchain& toolchain);
// The answer from before, where it still holds.
[[nodiscard]] std::optional<Answer> kept_answer(const Probe& probe, const model::Toolchain& toolchain,
                                                Answers& answers);

// Asks in a scratch folder that is gone afterwards. Limit: 60 s to compile, 20 s to run. With `answers`, an answer is
// kept until the compiler, a header it read, or what lies in the folders it looks through changes.
[[nodiscard]] Answer ask(const Probe& probe, const model::Toolchain& toolchain, Answers* answers = nullptr);

}  // namespace coctilis::locate
