// Tests that hang on others which their description does not name: what is left behind disturbs them, or they need it.
#pragma once

#include <vector>

#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

// For checks of the kind that failed as they are declared, one after the other: those that pass alone, in a fresh copy
// of the tree, are disturbed by what others leave; of those that were asked for by name, those that pass behind all
// that stand before them need what these leave. The cause and remedy say so; the verdict stays. At most five are looked
// into, and none once that has taken a minute. To be called with all checks of `context`, in order.
void name_order_as_cause(const Kind& kind, const Context& context, Runner& runner, std::vector<model::Check>& checks);

}  // namespace coctilis::smoke
