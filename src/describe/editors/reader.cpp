#include "describe/editors/reader.h"

#include <algorithm>
#include <set>

#include "base/files.h"
#include "describe/csharp/reader.h"
#include "describe/editors/targets.h"
#include "describe/sources/units.h"
#include "survey/languages.h"

namespace coctilis::describe::editors {

namespace {

using ReadProjects = std::vector<EditorProject> (*)(const EditorRequest&);

template <ReadProjects read_projects>
Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading a project file of an editor", [&] {
    auto& locator = request.locator;
    const auto& settings = locator.settings();
    const auto it = settings.variants.find(settings.variant);
    const model::Variant variant = it == settings.variants.end() ? model::Variant{} : it->second;
    model::Project project;
    project.name = std::filesystem::path(request.survey.tree).filename().string();
    project.tree = request.survey.tree;
    project.binary_root = request.work;
    const EditorRequest inner = {request.survey.tree, request.file, variant.debug()};
    const auto projects = read_projects(inner);
    auto targets = targets_of(projects, inner, project);
    if (targets.empty())
      throw Fault({Exit::description,
                   {files::below(request.file, project.tree), 0, 0},
                   "the project file names no sources that are compiled",
                   {},
                   "name another one under [tree] of coctilis.toml",
                   {}});
    std::set<std::string> languages;
    for (const auto& target : targets) {
      model::Outline outline;
      outline.name = target.name;
      outline.folder = project.tree;
      for (const auto& part : target.parts) {
        for (const auto& source : part.sources) {
          outline.sources.push_back(files::absolute(source, project.tree));
          const std::string language = survey::compiled_language(source);
          if (language != "Assembler") languages.insert(language);
        }
        for (const auto& folder : part.include)
          outline.include_folders.push_back(files::absolute(folder, project.tree));
      }
      project.outlines.push_back(std::move(outline));
      for (const auto& library : target.libraries)
        locator.keep(locator.link_name(
            {model::RequirementKind::library, library, {}, true, "'" + target.name + "'", target.place, {}}, {}));
    }
    project.languages.assign(languages.begin(), languages.end());
    for (const auto& one : projects) project.read_files.push_back(files::absolute(one.file, project.tree));
    sources::Workplace place;
    place.tree = project.tree;
    place.work = request.work;
    place.variant = variant;
    project.facts = sources::facts_of(targets, place);
    project.source_targets = std::move(targets);
    return project;
  });
}

// `rank`: behind all that says how a tree is built here, and by what says most about it.
Reader reader_for(std::string_view pattern, int rank, Result<model::Project> (*read_one)(const ReadRequest&),
                  bool (*is_one)(const std::string&)) {
  Reader out;
  out.format.format = pattern;
  out.format.names = {{pattern, rank}};
  out.format.readable = true;
  out.format.is_one = is_one;
  out.read = read_one;
  return out;
}

}  // namespace

Reader sln_reader() {
  // One that names projects of C# is read by those who know these.
  constexpr auto read_any = [](const ReadRequest& request) {
    return csharp::is_solution(request.file) ? csharp::read_solution(request) : read<read_sln>(request);
  };
  Reader out = reader_for("*.sln", 20, read_any, [](const std::string& path) { return path.ends_with(".sln"); });
  out.format.programs = {"msbuild"};
  return out;
}
Reader vcxproj_reader() {
  return reader_for("*.vcxproj", 21, read<read_vcxproj>,
                    [](const std::string& path) { return path.ends_with(".vcxproj"); });
}
Reader vcproj_reader() {
  return reader_for("*.vcproj", 23, read<read_vcproj>,
                    [](const std::string& path) { return path.ends_with(".vcproj"); });
}
Reader cbp_reader() {
  return reader_for("*.cbp", 18, read<read_cbp>, [](const std::string& path) { return path.ends_with(".cbp"); });
}
Reader cproject_reader() {
  return reader_for(".cproject", 19, read<read_cproject>,
                    [](const std::string& path) { return path.ends_with(".cproject"); });
}

}  // namespace coctilis::describe::editors
