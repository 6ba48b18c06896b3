// The environment in which what a run has built runs: its programs are found by name, and so are the libraries that
// they need, its own and those of prefixes that it was pointed at.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::record {

struct EnvironmentOfResults {
  std::string kiln;
  // Each variable with the folders that come before what it has already.
  std::vector<std::pair<std::string, std::vector<std::string>>> variables;
};

// Of the newest run that built something in the kilns in `kiln_root`, or the newest of a variant. Errors: there is none
// (Exit::usage), its record cannot be read (Exit::kiln).
[[nodiscard]] Result<EnvironmentOfResults> environment_of_results(const std::string& kiln_root,
                                                                  const std::string& variant);

}  // namespace coctilis::record
