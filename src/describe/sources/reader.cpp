#include "describe/sources/reader.h"

#include <algorithm>
#include <set>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/go/reader.h"
#include "describe/java/reader.h"
#include "describe/known_facts.h"
#include "describe/sources/discovery.h"
#include "describe/sources/told_units.h"
#include "describe/sources/units.h"
#include "locate/known.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

namespace {

model::Variant variant_of(const model::Settings& settings) {
  const auto it = settings.variants.find(settings.variant);
  return it == settings.variants.end() ? model::Variant{} : it->second;
}

// Sources that targets of coctilis.toml name.
std::vector<std::string> named_sources(const std::vector<model::SourceTarget>& targets) {
  std::vector<std::string> out;
  for (const auto& target : targets) {
    for (const auto& part : target.parts) out.insert(out.end(), part.sources.begin(), part.sources.end());
  }
  return out;
}

}  // namespace

namespace {
// What most of the code that can be compiled is written in; those with readers of their own are told apart.
std::string main_language(const model::Survey& survey, const model::Settings& settings) {
  if (!settings.targets.empty() || !settings.languages.empty()) return {};
  for (const auto& one : survey.languages) {
    for (const char* known : {"C", "C++", "Fortran", "Java", "Go"}) {
      if (one.language == known) return one.language;
    }
  }
  return {};
}
}  // namespace

namespace {
// Whether there is anything in languages that are linked by this program's own knowledge.
bool has_sources(const model::Survey& survey) {
  return std::any_of(survey.languages.begin(), survey.languages.end(), [](const auto& one) {
    return one.language == "C" || one.language == "C++" || one.language == "Fortran";
  });
}
}  // namespace

Result<model::Project> read(const ReadRequest& request) {
  const std::string mostly = main_language(request.survey, request.locator.settings());
  if (mostly == "Java") return java::read_sources(request);
  if (mostly == "Go") return go::read_sources(request);
  return guarded("finding out what the sources come to", [&] {
    auto& locator = request.locator;
    const auto& settings = locator.settings();
    model::Project project;
    project.name = std::filesystem::path(request.survey.tree).filename().string();
    project.tree = request.survey.tree;
    project.binary_root = request.work;
    Discovery discovery(request);
    std::vector<model::SourceTarget> targets;
    std::vector<model::SourceTarget> told =
        settings.targets.empty() ? told_targets(request) : std::vector<model::SourceTarget>{};
    for (const auto& target : settings.targets) (is_told(target, settings) ? told : targets).push_back(target);
    if (settings.targets.empty()) {
      // What is told of may be all that there is.
      if (told.empty() || has_sources(request.survey)) targets = discovery.targets();
      // Both were named after their files.
      std::set<std::string> names;
      for (const auto& target : targets) names.insert(target.name);
      for (auto& target : told) {
        const std::string plain = target.name;
        for (int n = 2; !names.insert(target.name).second; ++n) target.name = plain + "-" + std::to_string(n);
      }
    } else {
      discovery.prepare(named_sources(targets));
      // What they link is asked for like anything else.
      for (const auto& target : targets) {
        for (const auto& library : target.libraries) {
          if (library.starts_with('/') || library.starts_with('-')) continue;
          locator.keep(locator.link_name({model::RequirementKind::library,
                                          library,
                                          {},
                                          target.by_default,
                                          "'" + target.name + "'",
                                          target.place,
                                          {}},
                                         {}));
        }
      }
    }
    Workplace place = discovery.place();
    place.variant = variant_of(settings);
    std::vector<std::string> of_libraries;
    std::set<std::string> languages;
    for (const auto& target : targets) {
      model::Outline outline;
      outline.name = target.name;
      outline.in_default = target.by_default;
      outline.folder = project.tree;
      for (const auto& part : target.parts) {
        for (const auto& source : part.sources) {
          outline.sources.push_back(files::absolute(source, project.tree));
          if (target.kind == model::SourceTarget::Kind::library) of_libraries.push_back(source);
          const std::string language = survey::compiled_language(source);
          if (!language.empty() && language != "Assembler") languages.insert(language);
        }
        for (const auto& folder : part.include)
          outline.include_folders.push_back(files::absolute(folder, project.tree));
      }
      project.outlines.push_back(std::move(outline));
    }
    place.public_headers = discovery.headers_for(of_libraries);
    place.told = told;
    auto build = build_of(targets, place);
    add_told_units(told, targets, request, project, build);
    project.facts = known_facts(std::move(build));
    for (const auto& one : told) {
      const auto* language = settings.told_language_of(one.parts.front().sources.front());
      if (language != nullptr) languages.insert(language->name);
    }
    project.languages.assign(languages.begin(), languages.end());
    targets.insert(targets.end(), std::make_move_iterator(told.begin()), std::make_move_iterator(told.end()));
    project.source_targets = std::move(targets);
    project.left_out = discovery.left_out();
    project.warnings = discovery.warnings();
    return project;
  });
}

Reader reader() {
  Reader out;
  out.format = {description_name, {}, true, nullptr, {}};
  out.format.by_sources = true;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::sources
