// The order of a link line.
#pragma once

#include <cstddef>
#include <vector>

#include "model/build.h"

namespace coctilis::plan {

// The items of a link in the order in which they stand on the line, some of them twice: what the description names
// comes first, as it is named, since trees count on it for archives that do not say what they need. Behind it comes
// what those need, users first; what is needed by something behind it comes again: linkers drop shared libraries, too,
// that nothing before them needs. Archives that need each other are searched twice.
[[nodiscard]] std::vector<std::size_t> link_order(const model::LinkSettings& link);

}  // namespace coctilis::plan
