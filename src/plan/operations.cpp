#include "plan/operations.h"

#include <map>

#include "plan/finishing.h"
#include "plan/languages/fortran_modules.h"

namespace coctilis::plan {

StepOperation step_operation(std::string_view name) {
  static const std::map<std::string_view, StepOperation> table = {
      {"find-modules", find_modules},     {"order-modules", order_modules},   {"finish-copy", finish_by_copying},
      {"finish-join", finish_by_joining}, {"finish-pack", finish_by_packing}, {"finish-unpack", finish_by_unpacking}};
  const auto it = table.find(name);
  return it == table.end() ? nullptr : it->second;
}

}  // namespace coctilis::plan
