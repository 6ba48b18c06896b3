// [[edit]] of coctilis.toml: what is another in files of the tree when they are built.
#pragma once

#include <string>

#include "base/toml.h"
#include "model/settings.h"

namespace coctilis::survey {

// Reads one [[edit]]; `path` is the settings file, for messages. Throws Fault (Exit::usage).
void read_edit(const std::string& path, const toml::table& table, model::Settings& settings);

}  // namespace coctilis::survey
