#include "describe/readers.h"

#include <algorithm>
#include <cassert>
#include <filesystem>

#include "base/text.h"
#include "describe/configure/reader.h"
#include "describe/csharp/reader.h"
#include "describe/editors/reader.h"
#include "describe/go/reader.h"
#include "describe/java/reader.h"
#include "describe/listfile/reader.h"
#include "describe/makefile/reader.h"
#include "describe/meson_build/reader.h"
#include "describe/perl_module/reader.h"
#include "describe/pro/reader.h"
#include "describe/python_module/reader.h"
#include "describe/r_package/reader.h"
#include "describe/script/reader.h"
#include "describe/sources/reader.h"

namespace coctilis::describe {

const std::vector<Reader>& readers() {
  static const std::vector<Reader> table = {listfile::reader(),
                                            meson_build::reader(),
                                            r_package::reader(),
                                            perl_module::reader(),
                                            python_module::reader(),
                                            configure::reader(),
                                            makefile::reader(),
                                            pro::reader(),
                                            java::pom_reader(),
                                            java::build_reader(),
                                            go::reader(),
                                            csharp::reader(),
                                            script::reader(),
                                            editors::cbp_reader(),
                                            editors::cproject_reader(),
                                            editors::sln_reader(),
                                            editors::vcxproj_reader(),
                                            editors::vcproj_reader(),
                                            configure::source_reader(),
                                            sources::reader()};
  assert(std::all_of(table.begin(), table.end(), [](const auto& reader) {
    return reader.read != nullptr && (reader.format.by_sources || !reader.format.names.empty());
  }));
  return table;
}

const Reader* reader_of(const model::Description* description) {
  if (description == nullptr) return nullptr;
  for (const auto& reader : readers()) {
    if (description->format == reader.format.format) return &reader;
  }
  return nullptr;
}

const survey::DescriptionFormats& description_formats() {
  static const survey::DescriptionFormats all = [] {
    survey::DescriptionFormats out;
    for (const auto& reader : readers()) {
      out.push_back(reader.format);
      out.back().readable = true;
    }
    const auto& unread = survey::unread_formats();
    out.insert(out.end(), unread.begin(), unread.end());
    return out;
  }();
  return all;
}

bool is_build_program(const std::string& program) {
  const std::string name = std::filesystem::path(program).filename().string();
  const auto& formats = description_formats();
  return std::any_of(formats.begin(), formats.end(), [&](const auto& format) {
    return std::find(format.programs.begin(), format.programs.end(), name) != format.programs.end();
  });
}

namespace {
std::vector<std::string> readable_formats() {
  std::vector<std::string> out;
  for (const auto& reader : readers()) {
    if (!reader.is_hint() && !reader.format.by_sources) out.emplace_back(reader.format.format);
  }
  return out;
}
}  // namespace

std::optional<Problem> nothing_to_follow(const model::Survey& survey) {
  if (survey.followed() != nullptr || !survey.parts.empty()) return std::nullopt;
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
  if (auto problem = nothing_to_follow(survey)) return *problem;
  const auto* followed = survey.followed();
  const auto* reader = reader_of(followed);
  if (reader == nullptr) return Problem{Exit::defect, {}, "no reader for " + followed->format, {}, {}, {}};
  return reader->read({survey.tree + "/" + followed->path, survey, locator, work, services});
}

}  // namespace coctilis::describe
