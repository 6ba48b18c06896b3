// What the stages that locate and those behind them have in common.
#pragma once

#include <set>
#include <string>

#include "model/run.h"

namespace coctilis::pipeline {

// The languages of the survey whose compilers a tool chain is chosen by.
[[nodiscard]] std::set<std::string> languages_of(const model::Survey& survey);

// Ends the stage, and returns true, when something required is missing. What stopped the reader stands behind it: most
// often it stopped for want of what is missing.
bool stop_for_missing(model::Run& run);

}  // namespace coctilis::pipeline
