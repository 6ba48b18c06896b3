#include "describe/listfile/reader.h"

#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

Result<model::Project> read(const std::string& file, const model::Survey& survey, locate::Locator& locator,
                            const std::string& work) {
  return guarded("reading CMakeLists.txt", [&] { return Evaluator(locator, survey, work).run(file); });
}

}  // namespace coctilis::describe::listfile
