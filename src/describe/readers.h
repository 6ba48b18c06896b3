// The table of readers: one for each description format that can be followed.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "describe/read_request.h"
#include "locate/locator.h"
#include "model/project.h"
#include "model/survey.h"

namespace coctilis::describe {

struct Reader {
  const char* format;  // as in survey/descriptions.cpp
  Result<model::Project> (*read)(const ReadRequest& request);
};

[[nodiscard]] const std::vector<Reader>& readers();
[[nodiscard]] std::vector<std::string> readable_formats();

// Why no description of the tree can be followed (Exit::description); nothing when one can.
[[nodiscard]] std::optional<Problem> nothing_to_follow(const model::Survey& survey);

// Reads the description that the survey follows. Errors: there is none, or it is not understood (Exit::description).
[[nodiscard]] Result<model::Project> read(const model::Survey& survey, locate::Locator& locator,
                                          const std::string& work, const Services& services);

}  // namespace coctilis::describe
