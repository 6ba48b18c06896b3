#include "plan/operations.h"

#include <map>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "plan/finishing.h"
#include "plan/languages/csharp.h"
#include "plan/languages/fortran_modules.h"
#include "plan/languages/java.h"
#include "plan/languages/whole.h"

namespace coctilis::plan {

bool may_write(const std::string& path, const std::string& root, std::string& output) {
  if (files::lies_below(path, root) && !files::is_link(path)) return true;
  output += "'" + text::printable_line(path) + "' " + std::string(outside_output_folder) + " and is not written\n";
  return false;
}

StepOperation step_operation(std::string_view name) {
  static const std::map<std::string_view, StepOperation> table = {
      {"find-modules", find_modules},     {"order-modules", order_modules},       {"pack-classes", pack_classes},
      {"write-starter", write_starter},   {"finish-copy", finish_by_copying},     {"finish-join", finish_by_joining},
      {"finish-pack", finish_by_packing}, {"finish-unpack", finish_by_unpacking}, {"begin-sources", begin_sources}};
  const auto it = table.find(name);
  return it == table.end() ? nullptr : it->second;
}

}  // namespace coctilis::plan
