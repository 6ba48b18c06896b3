// What a run leaves for people and for other programs. The JSON schema is in docs/run-record.md.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "model/run.h"
#include "report/figures/drawing.h"

namespace coctilis::report {

inline constexpr int record_schema = 4;

// One JSON document each, ending in a line end. Foreign bytes come out as valid UTF-8.
[[nodiscard]] std::string survey_json(const model::Run& run);
[[nodiscard]] std::string locate_json(const model::Run& run);
[[nodiscard]] std::string plan_json(const model::Run& run);
// What a build would do, as a run that only looked found it: run.due, of each member.
[[nodiscard]] std::string due_json(const model::Run& run);
[[nodiscard]] std::string run_json(const model::Run& run);
// A problem as every record has it: exit, place, what, cause, remedy, trail.
[[nodiscard]] nlohmann::ordered_json problem_document(const Problem& problem);
// The run as a document, and how documents become text.
[[nodiscard]] nlohmann::ordered_json run_document(const model::Run& run);
[[nodiscard]] std::string as_text(const nlohmann::ordered_json& document);
// What the picture of the check at that place is called in the record.
[[nodiscard]] std::string picture_name(std::size_t check);
// A short account in plain text.
[[nodiscard]] std::string summary(const model::Run& run);
// A page that needs nothing but itself, with these figures on it.
[[nodiscard]] std::string page(const model::Run& run, const std::vector<Figure>& figures);

}  // namespace coctilis::report
