// One line of plain words for each stage: the same on the screen, in the summary and in the report.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "model/run.h"

namespace coctilis::report {

[[nodiscard]] std::string survey_sentence(const model::Survey& survey);
[[nodiscard]] std::string locate_sentence(const model::Run& run);
[[nodiscard]] std::string plan_sentence(const model::Run& run);
// The values of options that --set gave, now or earlier.
[[nodiscard]] std::string options_sentence(const model::Run& run);
// Commands that failed where the description says that this does not matter.
[[nodiscard]] std::string ignored_sentence(const model::Run& run);
// Sources that belong to nothing, by the reason for that; the paths as the tree has them.
[[nodiscard]] std::vector<std::pair<std::string, std::vector<std::string>>> sources_left_out(const model::Run& run);
// Documents that were left out, a line for each program that was lacking.
[[nodiscard]] std::vector<std::string> left_out_sentences(const model::Run& run);
// What a person reads first of a long output: its end, and where it first tells of a failure, if that is before it.
// Twenty lines at the most.
[[nodiscard]] std::vector<std::string> telling_lines(const std::string& output);
[[nodiscard]] std::string build_sentence(const model::Run& run);
// What a build would come to, of a run that only looked: "3 steps would run, 12 up to date".
[[nodiscard]] std::string due_sentence(const model::Run& run);
// What was made of results after linking, a line for each step that ran.
[[nodiscard]] std::vector<std::string> finish_sentences(const model::Run& run);
[[nodiscard]] std::string smoke_sentence(const model::Run& run);
// What checks that passed have printed that looks like errors, or what users of a library come upon: the names of those
// that say the same, and what it is.
[[nodiscard]] std::vector<std::string> output_sentences(const model::Run& run);

// Warnings of a build by the option that switches them, most frequent first.
[[nodiscard]] std::vector<std::pair<std::string, std::size_t>> grouped_warnings(const model::Outcome& outcome);

[[nodiscard]] std::string stage_sentence(const model::Run& run);

// What became of one member of a tree.
[[nodiscard]] std::string member_sentence(const model::Run& member);

}  // namespace coctilis::report
