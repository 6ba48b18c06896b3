#include "plan/operations.h"

#include <map>

#include "plan/languages/fortran_modules.h"

namespace coctilis::plan {

StepOperation step_operation(std::string_view name) {
  static const std::map<std::string_view, StepOperation> table = {{"find-modules", find_modules},
                                                                  {"order-modules", order_modules}};
  const auto it = table.find(name);
  return it == table.end() ? nullptr : it->second;
}

}  // namespace coctilis::plan
