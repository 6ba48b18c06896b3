#include "describe/readers.h"

#include "base/text.h"
#include "describe/configure/reader.h"
#include "describe/listfile/reader.h"
#include "describe/makefile/reader.h"
#include "describe/script/reader.h"

namespace coctilis::describe {

const std::vector<Reader>& readers() {
  static const std::vector<Reader> table = {
      {"CMakeLists.txt",
       [](const ReadRequest& request) {
         return listfile::read(request.file, request.survey, request.locator, request.work, request.services);
       }},
      {"configure", configure::read},
      {"Makefile", makefile::read},
      {"build.sh", script::read},
      {"configure.ac", configure::only_configure_ac},
  };
  return table;
}

std::vector<std::string> readable_formats() {
  std::vector<std::string> out;
  for (const auto& reader : readers()) out.emplace_back(reader.format);
  return out;
}

std::optional<Problem> nothing_to_follow(const model::Survey& survey) {
  if (survey.followed() != nullptr) return std::nullopt;
  Problem problem{Exit::description, {survey.tree, 0, 0}, {}, {}, {}, {}};
  if (survey.files == 0) {
    problem.what = "the tree is empty";
    problem.remedy = "name the folder that holds the sources";
  } else if (survey.descriptions.empty()) {
    problem.what = "nothing in the tree says how it is built";
    problem.cause =
        survey.languages.empty() ? "it has no sources either" : "it has sources, but no description in its top folder";
    problem.remedy =
        "name the folder that has the description; it must have one of: " + text::join(readable_formats(), ", ");
  } else {
    std::vector<std::string> names;
    for (const auto& d : survey.descriptions) names.push_back(d.path);
    problem.what = "no description in the tree can be followed yet";
    problem.cause = "there is " + text::join(names, ", ");
    problem.remedy = "descriptions that are understood: " + text::join(readable_formats(), ", ");
  }
  return problem;
}

Result<model::Project> read(const model::Survey& survey, locate::Locator& locator, const std::string& work,
                            const Services& services) {
  const auto* followed = survey.followed();
  if (auto problem = nothing_to_follow(survey)) return *problem;
  for (const auto& reader : readers()) {
    if (followed->format == reader.format)
      return reader.read({survey.tree + "/" + followed->path, survey, locator, work, services});
  }
  return Problem{Exit::defect, {}, "no reader for " + followed->format, {}, {}, {}};
}

}  // namespace coctilis::describe
