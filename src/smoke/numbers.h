// Numbers that a check reads from what a program printed or wrote, and how they are compared with recorded ones.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/asked_check.h"
#include "model/outcome.h"

namespace coctilis::smoke {

// Reads all of them in the order asked for. `output`: what the programs printed; `file`: where a file of the working
// folder lies. Errors: one is not found, its file is not there or cannot be read, what stands there is no number
// (Exit::check, with the place in coctilis.toml).
[[nodiscard]] Result<std::vector<model::CheckNumber>> read_numbers(
    const std::vector<model::AskedNumber>& asked, const std::string& output,
    const std::function<std::string(const std::string&)>& file);

// Whether `text` stands for the same number as `recorded`, or one that is as near as `asked` allows. Without tolerance
// the digits have to be the same, letter case and a plus sign aside; "inf" and "nan" agree with themselves only.
[[nodiscard]] bool agree(const model::AskedNumber& asked, const std::string& text, const std::string& recorded);

// The value; decimal, hexadecimal (0x1.8p+1, ISO C strtod) and with Fortran's D for an exponent. Nothing when it is
// none.
[[nodiscard]] std::optional<double> value_of(const std::string& text);

// ---- the reference: a JSON file in the tree ------------------------------------------------------------------------
// Puts what is recorded under `check` into `numbers`, and whether each agrees. Errors (Exit::check): it is not there,
// cannot be read, or is another check's.
[[nodiscard]] Result<bool> compare_with_reference(const std::string& path, const std::string& check,
                                                  const std::vector<model::AskedNumber>& asked,
                                                  std::vector<model::CheckNumber>& numbers);
// Writes the numbers as what is right from now on. Errors (Exit::check): it is another check's, or cannot be written.
[[nodiscard]] Result<bool> write_reference(const std::string& path, const std::string& check,
                                           const std::vector<model::CheckNumber>& numbers);

}  // namespace coctilis::smoke
