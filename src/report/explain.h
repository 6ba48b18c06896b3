// Answers "why": everything that a run knows of one subject.
#pragma once

#include <string>
#include <vector>

#include "model/run.h"

namespace coctilis::report {

struct Explanation {
  std::string kind;      // "question", "want", "option", "target", "step", "file", "symbol", "failure"
  std::string headline;  // one sentence
  std::vector<std::string> lines;
  std::string text;  // a source, or what a command printed: as it is, line ends kept; may be empty
};

// What is known of `subject`: the name of a want, of a variable that a question to the compiler answered, of an option,
// a target or a check; a file of the tree or a result, from the tree, from `here` (absolute) or by its last part; a
// symbol that results define or use; or the word "failure". The run must have come as far as it can (at best: planned).
// `record`: the newest run's record (run.json), for what ran and why; empty when there is none.
// Empty when nothing of that name is known.
[[nodiscard]] std::vector<Explanation> explain(const model::Run& run, const std::string& subject,
                                               const std::string& here, const std::string& record);
[[nodiscard]] std::string explanations_json(const model::Run& run, const std::string& subject,
                                            const std::vector<Explanation>& explanations);
// A name that is known and most like `subject`; empty when none is near.
[[nodiscard]] std::string nearest_subject(const model::Run& run, const std::string& subject);

// Everything that was asked of the compiler, each with its source, command and output: the log of the questions.
[[nodiscard]] std::string questions_log(const model::Run& run);

}  // namespace coctilis::report
