#include "describe/meson_build/reader.h"

#include "base/files.h"
#include "describe/known_facts.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

namespace {

Result<model::Project> read(const ReadRequest& request) {
  return guarded("reading meson.build", [&] {
    const auto& settings = request.locator.settings();
    const auto found = settings.variants.find(settings.variant);
    const model::Variant variant = found == settings.variants.end() ? model::Variant{} : found->second;
    model::Project project;
    project.name = request.survey.tree.substr(request.survey.tree.rfind('/') + 1);
    project.tree = request.survey.tree;
    project.binary_root = request.work;
    Evaluator evaluator(request, project, variant);
    evaluator.run();
    project.facts = known_facts(evaluator.lowered());
    return project;
  });
}

// One that begins with project(...) is the top of something; others belong to one further up.
bool begins_project(const std::string& path) {
  const std::string beginning = files::read_beginning(path, 64U << 10U);
  return beginning.find("project") != std::string::npos;
}

}  // namespace

Reader reader() {
  Reader out;
  out.format = {"meson.build",
                {{"meson.build", 2}},
                true,
                [](const std::string& path) { return path.ends_with("/meson.build"); },
                {"meson", "muon"}};
  out.format.counts = begins_project;
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::meson_build
