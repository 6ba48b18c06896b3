// Reads the [[smoke]] and [[service]] tables of coctilis.toml.
#pragma once

#include <string>

#include "base/toml.h"
#include "model/settings.h"

namespace coctilis::survey {

// `path`: the file that the table is read from. What is wrong with it is thrown (Exit::usage). A check that an earlier
// file has under the same name takes the place of that one.
void read_smoke_check(const std::string& path, const toml::table& table, model::Settings& settings);
void read_service(const std::string& path, const toml::table& table, model::Settings& settings);

// What no table shows alone: checks and services that are needed are there, and nothing needs itself. Throws.
void check_needs_of_checks(const model::Settings& settings);

}  // namespace coctilis::survey
