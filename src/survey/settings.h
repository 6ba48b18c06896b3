// Reads coctilis.toml and coctilis.local.toml (TOML 1.0). Unknown keys and wrong types are errors with file:line.
#pragma once

#include <string>

#include "base/result.h"
#include "model/settings.h"

namespace coctilis::survey {

// Adds what the file says to `settings`; later files override earlier ones. Errors: Exit::usage.
[[nodiscard]] Result<bool> read_settings(const std::string& path, model::Settings& settings);

// Reads the files that lie in the tree (or `config` instead, when it is not empty) into fresh settings, with the two
// built-in variants, or into `base`. It is no error when the tree has none.
[[nodiscard]] Result<model::Settings> settings_of(const std::string& tree, const std::string& config,
                                                  const model::Settings& base = {});

}  // namespace coctilis::survey
