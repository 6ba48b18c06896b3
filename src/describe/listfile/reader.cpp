#include "describe/listfile/reader.h"

#include "base/files.h"
#include "describe/listfile/evaluator.h"
#include "describe/mirror.h"

namespace coctilis::describe::listfile {

Result<model::Project> read(const std::string& file, const model::Survey& survey, locate::Locator& locator,
                            const std::string& work, const Limits& limits) {
  return guarded("reading CMakeLists.txt", [&] {
    const std::string copy = std::filesystem::path(work).parent_path().string() + "/tree";
    // One that needed a copy is read there at once the next time.
    const std::string mark = copy + ".needed";
    if (!files::is_file(mark)) {
      try {
        return Evaluator(locator, survey, work, limits).run(file);
      } catch (const NeedsCopy&) {
        files::write(mark, "");
      }
    }
    if (auto mirrored = mirror(survey.tree, copy); !mirrored) throw Fault(mirrored.problem());
    model::Survey of_copy = survey;
    of_copy.tree = copy;
    Evaluator evaluator(locator, of_copy, work, limits);
    evaluator.in_copy = true;
    auto project = evaluator.run(copy + "/" + files::below(file, survey.tree));
    for (auto& read : project.read_files) {
      if (files::is_below(read, copy)) read = survey.tree + "/" + files::below(read, copy);
    }
    std::error_code error;
    if (evaluator.copy_needed)
      project.warnings.push_back(*evaluator.copy_needed);
    else
      std::filesystem::remove(mark, error);
    return project;
  });
}

Result<std::vector<std::string>> run_script(const std::string& file, const std::string& folder,
                                            const std::vector<std::string>& definitions,
                                            const std::vector<std::string>& arguments, const std::string& tree,
                                            const std::string& output_root) {
  return guarded("running a script", [&] {
    const model::Toolchain none;
    const model::Settings settings;
    locate::Locator locator(none, settings);
    model::Survey survey;
    survey.tree = tree;
    return Evaluator(locator, survey, output_root)
        .run_script(files::absolute(file, folder), folder, definitions, arguments);
  });
}

}  // namespace coctilis::describe::listfile
