// The names that a run knows, in a small file of its own in the kiln: shells complete words by it in no time.
#pragma once

#include <string>
#include <vector>

#include "model/run.h"

namespace coctilis::record {

// Writes them: targets, options, checks, variants, libraries and sources, each a line "kind name".
// Of what the run has not got as far as stays what was there.
void keep_names(const model::Run& run);

// Those of a kind ("target", "option", "check", "variant", "library", "source") that the newest run below `kiln_root`
// knew; of "run" the numbers of its records.
[[nodiscard]] std::vector<std::string> names_in(const std::string& kiln_root, const std::string& kind);

}  // namespace coctilis::record
