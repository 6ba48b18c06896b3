#include "describe/java/reader.h"

#include <functional>

#include "base/files.h"
#include "base/text.h"
#include "describe/java/module.h"

namespace coctilis::describe::java {

namespace {

Result<model::Project> read_pom_tree(const ReadRequest& request) {
  return guarded("reading a project file",
                 [&] { return project_of(read_pom(request.file, request.survey.tree), request); });
}

// Module files of the tree, as deep as modules lie.
std::vector<std::string> module_files(const std::string& tree, const std::string& work) {
  std::vector<std::string> out;
  const std::function<void(const std::string&, int)> look = [&](const std::string& folder, int depth) {
    for (const auto& name : files::names_in(folder)) {
      const std::string path = folder + "/" + name;
      if (name.ends_with(".iml") && files::is_file(path)) out.push_back(path);
      const bool inside = name == ".idea" || !name.starts_with('.');
      if (inside && depth < 6 && files::is_folder(path) && !files::is_link(path) && !files::is_below(work, path))
        look(path, depth + 1);
    }
  };
  look(tree, 0);
  return out;
}

}  // namespace

Reader pom_reader() {
  Reader out;
  out.format.format = "pom.xml";
  // Scripts beside it call what it is for.
  out.format.names = {{"pom.xml", 7}};
  out.format.readable = true;
  out.format.is_one = [](const std::string& path) { return path.ends_with(".pom"); };
  out.format.programs = {"mvn", "mvnw", "mvnd"};
  out.read = read_pom_tree;
  return out;
}

Reader build_reader() {
  Reader out;
  out.format.format = "build.xml";
  // Scripts beside it call what it is for.
  out.format.names = {{"build.xml", 8}};
  out.format.readable = true;
  out.format.programs = {"ant"};
  out.read = [](const ReadRequest& request) {
    return guarded("reading a build file",
                   [&] { return project_of(read_build_xml(request.file, request.survey.tree), request); });
  };
  return out;
}

Result<model::Project> read_sources(const ReadRequest& request) {
  return guarded("finding out what the sources come to", [&] {
    const auto& tree = request.survey.tree;
    const auto found = module_files(tree, request.work);
    auto modules = found.empty() ? modules_of_sources(tree) : read_editor_modules(tree, found);
    // Module files that name nothing are of another use.
    if (modules.modules.empty()) modules = modules_of_sources(tree);
    return project_of(std::move(modules), request);
  });
}

}  // namespace coctilis::describe::java
