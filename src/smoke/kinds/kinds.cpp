#include <algorithm>

#include "base/files.h"
#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

const std::vector<Kind>& kinds() {
  static const std::vector<Kind> table = {loads_kind(),   starts_kind(),  library_kind(),
                                          service_kind(), program_kind(), declared_kind()};
  return table;
}

bool Context::wanted(const std::string& name, const std::string& program) const {
  const auto& only = request.only;
  return only.empty() || std::find(only.begin(), only.end(), name) != only.end() ||
         std::find(only.begin(), only.end(), program) != only.end();
}

std::vector<const model::PlannedTarget*> built_targets(const model::Plan& plan) {
  std::vector<const model::PlannedTarget*> out;
  for (const auto& target : plan.targets) {
    const bool library = target.kind == model::TargetKind::shared_library;
    const bool program = target.kind == model::TargetKind::program;
    if ((library || program) && files::is_file(target.output)) out.push_back(&target);
  }
  return out;
}

}  // namespace coctilis::smoke
