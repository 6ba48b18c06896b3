// What coctilis.toml says is needed beside the description: libraries, programs, kits and files.
#pragma once

#include <string>

#include "locate/locator.h"

namespace coctilis::locate {

// Finds every [[need]] and keeps the findings. Each is looked for by its kind; then its files must be there and the
// versions of needs that go together must agree.
void locate_needs(const model::Settings& settings, const std::string& tree, Locator& locator);

}  // namespace coctilis::locate
