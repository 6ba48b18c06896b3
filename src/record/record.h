// Keeps a run in the kiln: runs/<n>/ with its files, and runs/latest pointing at the newest.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/run.h"
#include "report/figures/figures.h"

namespace coctilis::record {

// Writes the record and sets run.number. Errors: the kiln cannot be written (Exit::kiln).
[[nodiscard]] Result<bool> keep(model::Run& run);

// The folder of a run's record.
[[nodiscard]] std::string folder(const model::Run& run);

// The newest record (run.json) in a kiln; of a run that repeats another, with what that one has to tell of the build.
// Empty when there is none.
[[nodiscard]] std::string newest(const std::string& kiln);

// The folder of the newest record of all labels in the folder that holds their kilns; of the run `number`, when that is
// not 0; only of the variant, when that is not empty. Empty when there is none.
[[nodiscard]] std::string newest_folder(const std::string& kiln_root, int number, const std::string& variant);

// The run whose record lies in that folder, or which that one repeats, with those before it in the same kiln, at most
// 20 of them and 8 MB. Nothing when the record is not there or damaged.
[[nodiscard]] std::optional<report::Material> material_of(const std::string& record_folder);

// The numbers of the records in a kiln, oldest first.
[[nodiscard]] std::vector<int> numbers(const std::string& kiln);

}  // namespace coctilis::record
