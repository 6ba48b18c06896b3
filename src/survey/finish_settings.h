// Reads the [[finish]] and [[desktop]] tables of coctilis.toml.
#pragma once

#include <string>

#include "base/toml.h"
#include "model/settings.h"

namespace coctilis::survey {

// `path`: the file that the table is read from. What is wrong with it is thrown (Exit::usage). One that an earlier file
// has under the same name takes the place of that one.
void read_finish(const std::string& path, const toml::table& table, model::Settings& settings);
void read_desktop_entry(const std::string& path, const toml::table& table, model::Settings& settings);

}  // namespace coctilis::survey
