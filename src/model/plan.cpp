#include "model/plan.h"

#include "base/text.h"

namespace coctilis::model {

std::string Action::text() const {
  if (how == How::shell) return argv.empty() ? std::string{} : argv[0];
  return text::shell_join(argv);
}

}  // namespace coctilis::model
