#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "plan/languages/language.h"

namespace coctilis::plan {

namespace {

std::vector<std::string> no_words(const model::Toolchain&) { return {}; }

// The languages whose sources can be compiled. What endings their sources have is told by survey/languages.cpp.
const std::vector<Language>& table() {
  static const std::vector<Language> languages = {
      {"C", c_family_steps, no_words, true},
      {"C++", c_family_steps, no_words, true},
      {"Assembler", c_family_steps, no_words, true},  // with the preprocessor, by the C compiler
      {"Fortran", fortran_steps, fortran_link_words, true},
      {"Plain assembler", plain_assembler_steps, no_words},
      {"Java", nullptr, no_words, false, java_steps},
      {"Go", nullptr, no_words, false, go_steps},
      {"C#", nullptr, no_words, false, csharp_steps},
  };
  return languages;
}

}  // namespace

const Language& language_of(const std::string& name, const Place& place) {
  for (const auto& language : table()) {
    if (language.name == name) return language;
  }
  std::vector<std::string> known;
  for (const auto& language : table()) known.emplace_back(language.name);
  throw Fault({Exit::description,
               place,
               "sources in " + name + " cannot be compiled yet",
               "languages that can be: " + text::join(known, ", "),
               "leave them out, or the target that they belong to",
               {}});
}

bool has_colours(const std::string& language) {
  if (language.empty()) return true;
  return std::any_of(table().begin(), table().end(),
                     [&](const auto& one) { return one.name == language && one.has_colours; });
}

void note_once(Planning& planning, const std::string& text) {
  if (planning.told.insert(text).second) planning.plan.notes.push_back(text);
}

model::Step step_for(const Planning& planning, const model::Unit& unit, const model::Part& part,
                     const model::UnitSource& source, const std::string& object) {
  model::Step step;
  step.kind = model::StepKind::compile;
  step.target = unit.name;
  step.language = part.language;
  step.source = source.path;
  step.subject = files::below(files::below(source.path, planning.project.binary_root), planning.project.tree);
  step.place = source.place;
  step.outputs = {object};
  step.dependency_file = object + ".d";
  step.inputs = {source.path};
  step.inputs.insert(step.inputs.end(), source.inputs.begin(), source.inputs.end());
  return step;
}

}  // namespace coctilis::plan
