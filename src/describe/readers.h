// The table of readers: one for each description format that can be followed.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "describe/read_request.h"
#include "locate/locator.h"
#include "model/project.h"
#include "model/survey.h"
#include "survey/descriptions.h"

namespace coctilis::describe {

struct Reader {
  survey::DescriptionFormat format;
  // Its recipes and scripts are run as they stand: in a mirror of the tree, with a make that is this program.
  bool runs_recipes = false;
  // What it comes to can be kept from one run to the next.
  bool keeps_plan = true;
  // It only says that the tree lacks what it could be built by: not tried when another one has failed.
  [[nodiscard]] bool is_hint() const { return format.is_hint; }
  // Whether another description, whose text is given, only leads back to one of this format; may be null.
  bool (*leads_back)(const std::string& other) = nullptr;
  // From the next time on what is read and built for the folder `work` is a copy of the tree in the kiln, which may be
  // written to; `why` says why. Null: it never needs one.
  void (*use_copy)(const std::string& work, const Problem& why) = nullptr;
  Result<model::Project> (*read)(const ReadRequest& request) = nullptr;
};

[[nodiscard]] const std::vector<Reader>& readers();
// The reader of a description; nullptr when nobody reads its format, or `description` is null.
[[nodiscard]] const Reader* reader_of(const model::Description* description);
// All formats that are known by name, those that can be read first.
[[nodiscard]] const survey::DescriptionFormats& description_formats();
// True when `program` (a name or a path) builds by one of these formats: it would do this program's work, and is never
// started, whatever a tree asks for.
[[nodiscard]] bool is_build_program(const std::string& program);

// Why no description of the tree can be followed (Exit::description); nothing when one can.
[[nodiscard]] std::optional<Problem> nothing_to_follow(const model::Survey& survey);

// Reads the description that the survey follows. Errors: there is none, or it is not understood (Exit::description).
[[nodiscard]] Result<model::Project> read(const model::Survey& survey, locate::Locator& locator,
                                          const std::string& work, const Services& services);

}  // namespace coctilis::describe
