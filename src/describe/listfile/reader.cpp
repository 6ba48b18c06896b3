#include "describe/listfile/reader.h"

#include "base/files.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

Result<model::Project> read(const std::string& file, const model::Survey& survey, locate::Locator& locator,
                            const std::string& work, const Limits& limits) {
  return guarded("reading CMakeLists.txt", [&] { return Evaluator(locator, survey, work, limits).run(file); });
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
